import { ApiProblem } from "../query/api";

/** Says what failed and what to do; where the problem knows a better word, offers to put it in. */
export function ProblemNote({
  error,
  text,
  onMend,
}: {
  error: unknown;
  text?: string;
  onMend?: (text: string) => void;
}) {
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
      {onMend && text !== undefined && position !== undefined && problem.instead && (
        <button
          type="button"
          className="btn btn-sm mt-2"
          onClick={() => onMend(text.slice(0, position) + problem.instead + text.slice(position + length))}
        >
          Read <span className="num">{problem.instead}</span> instead
        </button>
      )}
    </div>
  );
}
