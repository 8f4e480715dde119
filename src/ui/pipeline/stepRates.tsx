import type { Flow, StepDryRun } from "@/core/draft/dryRun";
import type { ValueDryRun } from "@/core/draft/tryOut";
import type { Signal } from "@/core/otlp/signals";
import { digits } from "@/core/unit/format";
import { count, size } from "../frame/amounts";
import { excerpts } from "./excerpt";
import { SIGNAL_WORDS } from "./words";

/** How much goes through a step, as it runs and as it was tried. */

/** A second, as it runs: what goes in and comes out, levels that come too late, and what a step cannot work with. */
export interface LiveRate {
  in: number;
  out: number;
  inBytes: number;
  outBytes: number;
  late: number;
  refused: number;
}

export const NO_RATE: LiveRate = { in: 0, out: 0, inBytes: 0, outBytes: 0, late: 0, refused: 0 };

/** Two amounts as one where they are written alike. */
function flow(before: string, after: string): string {
  return before === after ? before : `${before} → ${after}`;
}

function rate(amount: number): string {
  return amount < 10 ? digits(amount) : count(Math.round(amount));
}

function Live({ live, many }: { live: LiveRate; many: string }) {
  return (
    <div>
      now {live.in.toFixed(1)} → {live.out.toFixed(1)} {many}/s
      {live.inBytes > 0 && <div>{flow(size(live.inBytes), size(live.outBytes))}/s</div>}
      {live.late > 0 && <div className="text-warning">◆ {live.late.toFixed(2)}/s too late</div>}
      {live.refused > 0 && <div className="text-error">✕ {live.refused.toFixed(2)}/s refused</div>}
    </div>
  );
}

function Tried({ of, many, minute }: { of: StepDryRun; many: string; minute: ((amount: number) => number) | null }) {
  const each = (text: (one: Flow) => string) => flow(text(of.in), text(of.out));
  if (of.in.series === null || !minute)
    return (
      <>
        <div>
          {each(({ points }) => count(points))} {many} tried
        </div>
        <div>{each(({ bytes }) => size(bytes))}</div>
      </>
    );
  return (
    <>
      <div>{each(({ series }) => count(series ?? 0))} series</div>
      <div>
        {each(({ points }) => rate(minute(points)))} {many}/min
      </div>
      <div>{each(({ bytes }) => size(minute(bytes)))}/min</div>
    </>
  );
}

export function StepRates({
  signal,
  live,
  dryRun,
  minute,
}: {
  signal: Signal;
  live: LiveRate | undefined;
  dryRun: StepDryRun | undefined;
  /** What was tried, as it comes in a minute; null where that is not known. */
  minute: ((amount: number) => number) | null;
}) {
  const { many } = SIGNAL_WORDS[signal];
  return (
    <div className="num w-52 shrink-0 text-right text-[12px] text-muted">
      {live && <Live live={live} many={many} />}
      {dryRun && <Tried of={dryRun} many={many} minute={minute} />}
    </div>
  );
}

/** Long values are seen in one example, short ones in several. */
function shownOf(examples: ValueDryRun["examples"]): number {
  return examples.some(({ before }) => before.length > 60) ? 1 : examples.length;
}

/** What a step makes of the values that come to it. */
export function TriedValues({ values }: { values: readonly ValueDryRun[] }) {
  return values.map(({ attribute, values: came, left, examples }) => {
    const changed = examples.filter(({ before, after }) => before !== after);
    return (
      <p key={attribute} className="text-[12.5px] break-all">
        <span className="num">{attribute}</span>:{" "}
        {changed.length === 0 ? (
          <span className="text-warning">
            ◆ none of its {count(came)} {came === 1 ? "value changes" : "values change"}:{" "}
            <span className="num">{examples.map(({ before }) => excerpts(before, "").before).join(", ")}</span>
          </span>
        ) : (
          <>
            <span className="text-muted">
              {count(came)} {came === 1 ? "value becomes" : "values become"} {count(left)}:{" "}
            </span>
            <span className="num">
              {changed.slice(0, shownOf(changed)).map((one, i) => {
                const { before, after } = excerpts(one.before, one.after);
                return (
                  <span key={one.before}>
                    {i > 0 && ", "}
                    {before} <span className="text-primary">→ {after}</span>
                  </span>
                );
              })}
            </span>
          </>
        )}
      </p>
    );
  });
}
