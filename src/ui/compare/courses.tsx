import type { ComparisonAnswer } from "@/core/api/comparison";
import { formatValue } from "@/core/unit/format";
import { duration } from "../frame/times";

/** How both did from the start of their stays on, one over the other. */

const WIDTH = 300;
const HEIGHT = 56;
/** Where there is nothing, its axis ends. */
const LEAST = 1e-12;

function line(values: readonly (number | null)[], top: number): string {
  const x = (i: number) => (i / Math.max(1, values.length - 1)) * WIDTH;
  const y = (value: number) => HEIGHT - (value / top) * (HEIGHT - 4);
  let open = false;
  let path = "";
  values.forEach((value, i) => {
    if (value !== null) path += `${open ? "L" : "M"}${x(i)} ${y(value)}`;
    open = value !== null;
  });
  return path;
}

function Course({
  title,
  candidate,
  baseline,
  unit,
  share = false,
}: {
  title: string;
  candidate: readonly (number | null)[];
  baseline: readonly (number | null)[];
  unit: string;
  share?: boolean;
}) {
  const top = Math.max(LEAST, ...candidate.map((value) => value ?? 0), ...baseline.map((value) => value ?? 0));
  return (
    <div>
      <p className="flex justify-between text-[12.5px]">
        <span>{title}</span>
        <span className="num text-muted">{top > LEAST ? `to ${formatValue(top, unit, share)}` : "none"}</span>
      </p>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        width="100%"
        height={HEIGHT}
        preserveAspectRatio="none"
        aria-hidden="true"
      >
        <path
          d={line(baseline, top)}
          fill="none"
          stroke="var(--color-secondary)"
          strokeWidth={1.3}
          vectorEffect="non-scaling-stroke"
        />
        <path
          d={line(candidate, top)}
          fill="none"
          stroke="var(--color-primary)"
          strokeWidth={2.2}
          vectorEffect="non-scaling-stroke"
        />
        <line x1={0} x2={WIDTH} y1={HEIGHT - 0.5} y2={HEIGHT - 0.5} stroke="var(--color-base-300)" />
      </svg>
    </div>
  );
}

export function Courses({ answer }: { answer: ComparisonAnswer }) {
  const { courses, unit, candidate, baseline } = answer;
  if (!courses || !baseline) return null;
  const length = courses.every * courses.candidate.p95.length;
  return (
    <section aria-label="Since each began" className="plate p-4">
      <h2 className="text-[15px] font-bold">Since each began</h2>
      <p className="mb-2 text-[12.5px] text-muted">
        the first {duration(length)} of <b className="text-primary">{candidate.release}</b> over those of{" "}
        <b>{baseline.release}</b>
      </p>
      <div className="space-y-2.5">
        <Course title="p95" candidate={courses.candidate.p95} baseline={courses.baseline.p95} unit={unit} />
        <Course
          title="calls per second"
          candidate={courses.candidate.rate}
          baseline={courses.baseline.rate}
          unit="/s"
        />
        <Course title="errors" candidate={courses.candidate.errors} baseline={courses.baseline.errors} unit="" share />
      </div>
      <p className="num mt-1 flex justify-between text-[11px] text-muted">
        <span>its start</span>
        <span>{duration(length)} later</span>
      </p>
    </section>
  );
}
