import { filledPath, queryText } from "@/core/api/address";
import type { Call, Given, Taken } from "@/core/api/call";
import type { Contract } from "@/core/api/calls";
import type { Problem } from "@/core/api/readings";

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

/** Whether an error is a refusal, which asking again would not change. */
export function isRefusal(error: unknown): boolean {
  return error instanceof ApiProblem && error.status >= 400 && error.status < 500;
}

/** A part of what a call is given; may be left out where nothing of it is needed. */
type Part<Name extends string, T> =
  Record<string, never> extends Given<T> ? { [name in Name]?: Given<T> } : { [name in Name]: Given<T> };

/** What a call is given. */
export type Input<C extends Parts> = Part<"params", C["params"]> & Part<"query", C["query"]> & Part<"body", C["body"]>;

/** What a call answers. */
export type Result<C extends Parts> = Taken<C["answer"]>;

type Parts = Pick<Call, "params" | "query" | "body" | "answer">;

let onUnknown: (() => void) | null = null;

/** Says what to do where the server does not know any more who asks; null on pages for who is not signed in. */
export function whenUnknown(act: (() => void) | null): void {
  onUnknown = act;
}

/** How long another tab may take to be given another session, ms. */
const OTHER_TAB = 500;

/** Calls that are on their way, until their answer begins. */
const underWay = new Set<Promise<Response>>();

async function send(address: string, init: RequestInit): Promise<Response> {
  const sent = fetch(address, init);
  underWay.add(sent);
  try {
    return await sent;
  } catch (error) {
    throw unreached(error);
  } finally {
    underWay.delete(sent);
  }
}

/**
 * Sends a call, once more where nobody knew the asker: another call that was under way (codes set up, a password changed)
 * may have given this browser another session meanwhile.
 *
 * @throws ApiProblem that it could not be reached
 */
async function sendKnown(address: string, init: RequestInit): Promise<Response> {
  const response = await send(address, init);
  // Before the sign-in it is an answer: the password is wrong, and sent twice it would count as two attempts.
  if (response.status !== 401 || onUnknown === null) return response;
  await Promise.allSettled(underWay);
  await new Promise((done) => setTimeout(done, OTHER_TAB));
  return send(address, init);
}

/** Sends a call. @throws ApiProblem with what it said, or that it could not be reached */
async function answered<K extends keyof Contract>(
  call: K,
  input: Input<Contract[K]>,
  signal?: AbortSignal,
): Promise<Response> {
  const { params, query, body } = input as { params?: object; query?: object; body?: unknown };
  const [method, path] = call.split(" ");
  const text = queryText({ ...query });
  const address = filledPath(path, { ...params }) + (text === "" ? "" : `?${text}`);
  const isFile = typeof body === "string";
  const sent =
    body === undefined
      ? {}
      : {
          headers: { "Content-Type": isFile ? "application/yaml" : "application/json" },
          body: isFile ? body : JSON.stringify(body),
        };
  const response = await sendKnown(address, { method, ...sent, signal });
  if (response.ok) return response;
  const content = await response.json().catch(() => null);
  if (response.status === 401) onUnknown?.();
  throw new ApiProblem(
    content?.title ? (content as Problem) : { title: "No answer", detail: `the server answered ${response.status}` },
    response.status,
  );
}

function unreached(error: unknown): unknown {
  if ((error as Error).name === "AbortError") return error;
  return new ApiProblem({ title: "Not reachable", detail: "Tin Ladder does not answer; is it still running?" }, 0);
}

/**
 * Calls the API, by the method and path of the contract. Only its types are needed here, so that no page has to load the
 * schemas.
 *
 * @throws ApiProblem with what it said, or that it could not be reached
 */
export async function ask<K extends keyof Contract>(
  call: K,
  input: Input<Contract[K]>,
  signal?: AbortSignal,
): Promise<Result<Contract[K]>> {
  return (await (await answered(call, input, signal)).json()) as Result<Contract[K]>;
}

/** The lines that a call answers, each as soon as it is there. @throws ApiProblem as for `ask`, also in the middle */
export async function* linesOf<K extends keyof Contract>(
  call: K,
  input: Input<Contract[K]>,
  signal?: AbortSignal,
): AsyncGenerator<string> {
  const { body } = await answered(call, input, signal);
  if (!body) return;
  const reader = body.pipeThrough(new TextDecoderStream()).getReader();
  let rest = "";
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) break;
      const lines = (rest + value).split("\n");
      rest = lines.pop()!;
      yield* lines;
    }
  } catch (error) {
    throw unreached(error);
  } finally {
    reader.cancel().catch(() => {});
  }
  if (rest !== "") yield rest;
}
