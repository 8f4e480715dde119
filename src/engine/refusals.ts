import type { Problem } from "@/core/api/readings";
import { TooMuchError } from "@/core/reading/distribution";
import { ReadingError } from "@/core/reading/language/tree";
import { isAway, noteFault } from "./faults";
import type { Refused } from "./outcome";
import { faultProblem, STORE_AWAY } from "./problems";

/** What the asker can mend, or null for anything else. */
export function problemOf(error: unknown): Problem | null {
  if (error instanceof ReadingError) {
    const { message, position, length, hint, instead } = error;
    const title = "The reading cannot be answered";
    return { title, detail: message, position, length, hint, instead: instead ?? undefined };
  }
  if (error instanceof TooMuchError) return { title: "The reading is too large", detail: error.message };
  return null;
}

/** What is told of a failure: the asker's mistake, the store being away, or a fault of ours, which is written down. */
export function refusalOf(error: unknown, about: object): Refused {
  const problem = problemOf(error);
  if (problem) return { ok: false, status: 400, problem };
  if (isAway(error)) return { ok: false, status: 503, problem: STORE_AWAY };
  return { ok: false, status: 500, problem: faultProblem(noteFault(error, { job: about })) };
}
