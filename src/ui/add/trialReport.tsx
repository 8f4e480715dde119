import type { TrialAnswer } from "@/core/api/targets";

/** The steps of a trial, and what is wrong where something is. */
export function TrialReport({ trial }: { trial: TrialAnswer }) {
  const { steps, failure } = trial;
  return (
    <section aria-label="What came of it" className="mt-3">
      <ol className="text-[13px]">
        {steps.map(({ what, said, at }) => (
          <li key={what}>
            <span className="text-success">✓</span> {said} <span className="num text-muted">{at} ms</span>
          </li>
        ))}
      </ol>
      {failure && (
        <div role="alert" className="plate mt-2 border-l-4 border-l-error p-3">
          <p className="font-bold text-error">✕ {failure.title}</p>
          <p className="num break-words text-[12.5px]">{failure.detail}</p>
          <p>{failure.todo}</p>
        </div>
      )}
    </section>
  );
}
