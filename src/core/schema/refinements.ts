import type { z } from "zod";
import { patternProblem } from "../pattern/pattern";
import { parseUnit } from "../unit/unit";

/** What texts in schemas have to be. */

/** A pattern on the linear-time engine (RE2). */
export function isPattern(text: string, context: z.RefinementCtx): void {
  const problem = patternProblem(text);
  if (problem !== null) context.addIssue({ code: "custom", message: `the pattern is not understood: ${problem}` });
}

/** A unit as UCUM writes it. */
export function isUnit(code: string, context: z.RefinementCtx): void {
  try {
    parseUnit(code);
  } catch (error) {
    context.addIssue({ code: "custom", message: (error as Error).message });
  }
}
