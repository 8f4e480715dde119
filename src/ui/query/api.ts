import type { Problem } from "@/core/api/answers";

/** A problem that the API told, as an error. */
export class ApiProblem extends Error {
  override name = "ApiProblem";
  constructor(
    readonly problem: Problem,
    readonly status: number,
  ) {
    super(problem.detail);
  }
}

/** Fetches JSON. @throws ApiProblem with what the API said, or that it could not be reached */
export async function fetchJson<T>(
  path: string,
  parameters: Record<string, string | number | undefined>,
  signal?: AbortSignal,
): Promise<T> {
  const query = new URLSearchParams();
  for (const [key, value] of Object.entries(parameters)) if (value !== undefined) query.set(key, String(value));
  return answered<T>(() => fetch(`${path}?${query}`, { signal }));
}

/** Sends JSON and fetches what comes back. @throws ApiProblem */
export function postJson<T>(path: string, body: unknown, method: "POST" | "PUT" | "DELETE" = "POST"): Promise<T> {
  return answered<T>(() =>
    fetch(path, { method, headers: { "Content-Type": "application/json" }, body: JSON.stringify(body) }),
  );
}

/** Sends a text as it is. @throws ApiProblem */
export function sendText<T>(path: string, body: string): Promise<T> {
  return answered<T>(() => fetch(path, { method: "POST", headers: { "Content-Type": "text/plain" }, body }));
}

/** Asks for something to be deleted. @throws ApiProblem */
export function deleteAt(path: string): Promise<object> {
  return answered<object>(() => fetch(path, { method: "DELETE" }));
}

async function answered<T>(ask: () => Promise<Response>): Promise<T> {
  let response: Response;
  try {
    response = await ask();
  } catch (error) {
    if ((error as Error).name === "AbortError") throw error;
    throw new ApiProblem({ title: "Not reachable", detail: "Tin Ladder does not answer; is it still running?" }, 0);
  }
  if (response.ok) return (await response.json()) as T;
  const content = await response.json().catch(() => null);
  throw new ApiProblem(
    content?.title ? (content as Problem) : { title: "No answer", detail: `the server answered ${response.status}` },
    response.status,
  );
}
