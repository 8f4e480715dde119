import type { ComparisonAnswer } from "@/core/api/comparison";
import type { HeldValue } from "@/core/api/held";

/** What stands around the figures: while they come, where there are none, and what to know of them. */

export function Skeleton() {
  return (
    <div role="status" aria-label="Comparing…" className="space-y-3">
      <div className="plate space-y-3 p-4">
        {[0, 1, 2, 3, 4].map((row) => (
          <div key={row} className="flex gap-6">
            <span className="skeleton-bar h-5 w-24" />
            <span className="skeleton-bar h-5 w-20" />
            <span className="skeleton-bar h-5 flex-1" />
          </div>
        ))}
      </div>
      <div className="plate h-40 p-4">
        <span className="skeleton-bar block h-5 w-64" />
      </div>
    </div>
  );
}

export function Held({ hold, onChange }: { hold: readonly HeldValue[]; onChange: (next: HeldValue[]) => void }) {
  if (hold.length === 0) return null;
  return (
    <>
      , only calls with{" "}
      {hold.map((one, i) => (
        <span key={one.attribute}>
          {i > 0 && " and "}
          <button
            type="button"
            className="num rounded-sm bg-primary/12 px-1 hover:line-through"
            title="hold the page to this no more"
            aria-label={`no more only ${one.attribute} ${one.value ?? "missing"}`}
            onClick={() => onChange(hold.filter(({ attribute }) => attribute !== one.attribute))}
          >
            {one.value === null ? `no ${one.attribute}` : `${one.attribute} = ${one.value}`} ✕
          </button>
        </span>
      ))}
    </>
  );
}

export function Warning({ answer }: { answer: ComparisonAnswer }) {
  if (answer.differs === null) return null;
  return (
    <p role="note" className="plate mb-3 border-l-4 border-l-warning px-4 py-2">
      <b className="text-warning">The mix of {answer.differs} changed.</b> With as many calls of each value on both
      sides the verdict is another one: see like for like
      {answer.alike?.attribute === answer.differs ? "" : `, by ${answer.differs}`}.
    </p>
  );
}

export function Nothing({ answer }: { answer: ComparisonAnswer }) {
  const { candidate, baseline, metric, hold } = answer;
  const why =
    metric === null
      ? `${candidate.service} reports no histogram of its calls; without one there is nothing to compare.`
      : !baseline
        ? `${candidate.service} has no other release that ${candidate.release} could be held against.`
        : hold.length > 0
          ? "There is no minute in which both had such calls. Hold to less, or take a longer window."
          : `In this window ${candidate.release} had no calls, or ${baseline.release} had none that could be held against them. Take a window around the release: [ and ] go from one to the next.`;
  return (
    <div className="plate p-4">
      <h2 className="font-bold">Nothing to compare here</h2>
      <p className="mt-1 max-w-prose text-muted">{why}</p>
    </div>
  );
}
