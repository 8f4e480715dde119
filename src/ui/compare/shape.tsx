import type { ComparisonAnswer } from "@/core/api/comparison";
import { digits, formatValue } from "@/core/unit/format";
import { axisTicks } from "../chart/logAxis";

/** Both distributions over each other, and where calls went. */

const WIDTH = 600;
const HEIGHT = 120;
const BELOW = 34;
/** Room for half of a tick's name. */
const EDGE = 26;

function outline(shares: readonly number[], top: number): string {
  const step = WIDTH / Math.max(1, shares.length);
  const y = (share: number) => HEIGHT - (share / top) * (HEIGHT - 6);
  const steps = shares.map((share, i) => `L${i * step} ${y(share)}L${(i + 1) * step} ${y(share)}`);
  return `M0 ${HEIGHT}${steps.join("")}L${WIDTH} ${HEIGHT}`;
}

export function Shape({ answer }: { answer: ComparisonAnswer }) {
  const { shape, unit, candidate, baseline } = answer;
  const { axis, distance } = shape;
  if (axis.length === 0 || !baseline) return null;
  const top = Math.max(1e-12, ...shape.candidate, ...shape.baseline);
  const apart = shape.candidate.map((share, i) => share - shape.baseline[i]);
  const most = Math.max(1e-12, ...apart.map(Math.abs));
  const step = WIDTH / apart.length;
  const ticks = axisTicks(axis, WIDTH).filter(({ x }) => x > EDGE);
  const says = distance
    ? `${digits(distance.greatest * 100)} % of calls lie on another side of ${formatValue(distance.at, unit)}; on average they moved by ${formatValue(distance.moved, unit)}`
    : "";
  return (
    <section aria-label="Where calls lie" className="plate p-4">
      <h2 className="text-[15px] font-bold">Where calls lie</h2>
      <p className="mb-2 text-[12.5px] text-muted">{says}</p>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT + BELOW + 18}`}
        width="100%"
        role="img"
        aria-label={`Distributions of ${candidate.release} and ${baseline.release}. ${says}`}
      >
        <path d={outline(shape.baseline, top)} fill="var(--color-secondary)" fillOpacity={0.3} />
        <path
          d={outline(shape.candidate, top)}
          fill="var(--color-primary)"
          fillOpacity={0.14}
          stroke="var(--color-primary)"
          strokeWidth={1.6}
        />
        {apart.map((share, i) => (
          <rect
            key={i}
            x={i * step}
            width={step + 0.3}
            y={share > 0 ? HEIGHT + BELOW / 2 - (share / most) * (BELOW / 2 - 2) : HEIGHT + BELOW / 2}
            height={(Math.abs(share) / most) * (BELOW / 2 - 2)}
            fill={share > 0 ? "var(--color-primary)" : "var(--color-secondary)"}
          />
        ))}
        <line x1={0} x2={WIDTH} y1={HEIGHT} y2={HEIGHT} stroke="var(--color-base-300)" />
        <line x1={0} x2={WIDTH} y1={HEIGHT + BELOW / 2} y2={HEIGHT + BELOW / 2} stroke="var(--color-base-300)" />
        {ticks.map(({ value, x }) => (
          <text
            key={value}
            x={x}
            y={HEIGHT + BELOW + 13}
            textAnchor="middle"
            fontSize={11}
            fontFamily="var(--font-mono)"
            fill="var(--color-secondary)"
          >
            {formatValue(value, unit)}
          </text>
        ))}
      </svg>
      <p className="text-[11.5px] text-muted">
        <b className="text-primary">{candidate.release}</b> as a line over <b>{baseline.release}</b>; below, where it
        has more of its calls (up) and fewer (down).
      </p>
    </section>
  );
}
