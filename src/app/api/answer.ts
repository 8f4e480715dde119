import type { z } from "zod";
import type { Problem } from "@/core/api/readings";
import { faultText } from "@/core/schema/fault";
import { BusyError, isAway, noteFault } from "@/engine/faults";
import { BUSY, faultProblem, STORE_AWAY } from "@/engine/problems";

/** Answers of the API: plain JSON, or a problem (RFC 9457). */

export function problem(status: number, content: Problem): Response {
  return Response.json({ status, ...content }, { status, headers: { "Content-Type": "application/problem+json" } });
}

/** A body that cannot be used. */
class RefusedBody extends Error {
  constructor(
    readonly status: 400 | 413,
    readonly title: string,
    detail: string,
  ) {
    super(detail);
  }
}

/** The body of a request as a text. @throws RefusedBody, which becomes the answer, where it has more characters than may be */
export async function bodyText(request: Request, most: number): Promise<string> {
  const text = await request.text();
  if (text.length <= most) return text;
  throw new RefusedBody(413, "Too large", `the body has ${text.length} characters, at most ${most} are taken`);
}

/** A text as JSON. @throws RefusedBody, which becomes the answer, where it is none */
export function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch (error) {
    throw new RefusedBody(400, "Not understood", `the body is not JSON: ${(error as Error).message}`);
  }
}

export function later(content: Problem): Response {
  const response = problem(503, content);
  response.headers.set("Retry-After", "5");
  return response;
}

/** @param wait for how long to wait before asking again, ms */
export function tooMany(content: Problem, wait: number): Response {
  const response = problem(429, content);
  response.headers.set("Retry-After", String(Math.ceil(wait / 1000)));
  return response;
}

/** Says that nobody is known to ask (RFC 9110, 15.5.2). */
export function unknownCaller(content: Problem): Response {
  const response = problem(401, content);
  response.headers.set("WWW-Authenticate", 'Bearer realm="Tin Ladder"');
  return response;
}

/** What is said of an error that is not the asker's: that we are busy, that the store is away, or a fault with its id. */
export function unforeseen(error: unknown, asked: Record<string, unknown>): { status: 500 | 503; content: Problem } {
  if (error instanceof BusyError) return { status: 503, content: BUSY };
  if (isAway(error)) return { status: 503, content: STORE_AWAY };
  return { status: 500, content: faultProblem(noteFault(error, asked)) };
}

/** Runs a handler; what nobody foresaw becomes a problem that does not tell internals. */
export async function answering(work: () => Promise<Response>): Promise<Response> {
  const response = await answered(work);
  // What is not said to be kept is for whoever asked, now.
  if (!response.headers.has("Cache-Control")) response.headers.set("Cache-Control", "no-store");
  return response;
}

async function answered(work: () => Promise<Response>): Promise<Response> {
  try {
    return await work();
  } catch (error) {
    if (["AbortError", "ResponseAborted"].includes((error as Error).name))
      return problem(499, { title: "Given up", detail: "the caller went away" });
    if (error instanceof RefusedBody) return problem(error.status, { title: error.title, detail: error.message });
    const { status, content } = unforeseen(error, {});
    return status === 503 ? later(content) : problem(status, content);
  }
}

/** The first thing that is wrong with query parameters, or a body. */
export function wrongIn(error: z.ZodError): Problem {
  const [issue] = error.issues;
  return {
    title: "The request is not understood",
    detail: `${issue.path.join(".") || "query"}: ${faultText(issue.message)}`,
  };
}

export function badRequest(error: z.ZodError): Response {
  return problem(400, wrongIn(error));
}
