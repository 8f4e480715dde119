import type { z } from "zod";
import type { Problem } from "@/core/api/answers";
import type { Outcome } from "@/engine/jobs";

/** Answers of the API: plain JSON, or a problem (RFC 9457). */

export function problem(status: number, content: Problem): Response {
  return Response.json({ status, ...content }, { status, headers: { "Content-Type": "application/problem+json" } });
}

const MOST_BODY = 256 * 1024;

/** The body of a request as JSON; undefined where it is none. */
export async function jsonBody(request: Request): Promise<unknown> {
  const text = await request.text();
  if (text.length > MOST_BODY) return undefined;
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}

/** Runs a handler; what nobody foresaw becomes a problem that does not tell internals. */
export async function answering(work: () => Promise<Response>): Promise<Response> {
  try {
    return await work();
  } catch (error) {
    if ((error as Error).name === "AbortError")
      return problem(499, { title: "Given up", detail: "the caller went away" });
    console.error(error);
    const full = (error as Error).message?.includes("Task queue is at limit");
    if (full) return problem(503, { title: "Busy", detail: "too many readings are waiting; try again in a moment" });
    return problem(503, {
      title: "No answer",
      detail: "the store did not answer; is the database running? Try again in a moment",
    });
  }
}

export function outcome<T>(result: Outcome<T>): Response {
  return result.ok ? Response.json(result.value) : problem(400, result.problem);
}

/** The first thing that is wrong with query parameters. */
export function badRequest(error: z.ZodError): Response {
  const [issue] = error.issues;
  return problem(400, {
    title: "The request is not understood",
    detail: `${issue.path.join(".") || "query"}: ${issue.message}`,
  });
}
