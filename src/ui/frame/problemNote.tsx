import { ApiProblem } from "../query/api";

/** Says what failed and what to do. */
export function ProblemNote({ error, text }: { error: unknown; text?: string }) {
  const problem =
    error instanceof ApiProblem
      ? error.problem
      : { title: "Something broke", detail: String((error as Error)?.message ?? error) };
  const { position, length = 1 } = problem;
  return (
    <div role="alert" className="plate border-l-4 border-l-error p-3">
      <p className="font-bold text-error">✕ {problem.title}</p>
      {text !== undefined && position !== undefined && (
        <p className="num my-1 whitespace-pre-wrap break-words text-[13px]">
          {text.slice(0, position)}
          <mark className="bg-error/20 text-inherit underline decoration-error decoration-wavy underline-offset-4">
            {text.slice(position, position + length) || " "}
          </mark>
          {text.slice(position + length)}
        </p>
      )}
      <p>{problem.detail}</p>
      {problem.hint && <p className="text-muted">{problem.hint}</p>}
    </div>
  );
}
