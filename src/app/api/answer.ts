import type { z } from "zod";
import type { Problem } from "@/core/api/answers";
import { BusyError, isAway, noteFault } from "@/engine/faults";
import type { Outcome } from "@/engine/jobs";
import { BUSY, faultProblem, STORE_AWAY } from "@/engine/problems";

/** Answers of the API: plain JSON, or a problem (RFC 9457). */

export function problem(status: number, content: Problem): Response {
  return Response.json({ status, ...content }, { status, headers: { "Content-Type": "application/problem+json" } });
}

const MOST_BODY = 256 * 1024;

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

/** The body of a request as JSON. @throws RefusedBody, which becomes the answer, where it is none or too large */
export async function jsonBody(request: Request): Promise<unknown> {
  const text = await request.text();
  if (text.length > MOST_BODY)
    throw new RefusedBody(413, "Too large", `the body has ${text.length} characters, at most ${MOST_BODY} are taken`);
  try {
    return JSON.parse(text);
  } catch (error) {
    throw new RefusedBody(400, "Not understood", `the body is not JSON: ${(error as Error).message}`);
  }
}

function later(content: Problem): Response {
  const response = problem(503, content);
  response.headers.set("Retry-After", "5");
  return response;
}

/** Runs a handler; what nobody foresaw becomes a problem that does not tell internals. */
export async function answering(work: () => Promise<Response>): Promise<Response> {
  try {
    return await work();
  } catch (error) {
    if ((error as Error).name === "AbortError")
      return problem(499, { title: "Given up", detail: "the caller went away" });
    if (error instanceof RefusedBody) return problem(error.status, { title: error.title, detail: error.message });
    if (error instanceof BusyError) return later(BUSY);
    if (isAway(error)) return later(STORE_AWAY);
    return problem(500, faultProblem(noteFault(error, {})));
  }
}

export function outcome<T>(result: Outcome<T>): Response {
  if (result.ok) return Response.json(result.value);
  return result.status === 503 ? later(result.problem) : problem(result.status, result.problem);
}

const EXPECTED: Record<string, string> = {
  string: "a text",
  number: "a number",
  int: "a whole number",
  boolean: "true or false",
  array: "a list",
  object: "an object",
  record: "an object",
};

/** What is wrong in words: a part that is not there, or of another kind, has no sentence of its own in a schema. */
function sentence({ code, message, ...issue }: z.core.$ZodIssue): string {
  if (code !== "invalid_type" || !message.startsWith("Invalid input")) return message;
  const expected = EXPECTED[(issue as { expected?: string }).expected ?? ""] ?? "another kind of value";
  return message.endsWith("received undefined") ? `is missing; ${expected} is expected` : `${expected} is expected`;
}

/** The first thing that is wrong with query parameters, or a body. */
export function badRequest(error: z.ZodError): Response {
  const [issue] = error.issues;
  return problem(400, {
    title: "The request is not understood",
    detail: `${issue.path.join(".") || "query"}: ${sentence(issue)}`,
  });
}
