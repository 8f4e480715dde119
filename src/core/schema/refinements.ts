import type { z } from "zod";
import { patternProblem } from "../pattern/pattern";
import { parseUnit } from "../unit/unit";

/** What texts in schemas have to be. */

/** A pattern on the linear-time engine (RE2). */
export function isPattern(text: string, context: z.RefinementCtx): void {
  const problem = patternProblem(text);
  if (problem !== null) context.addIssue({ code: "custom", message: `the pattern is not understood: ${problem}` });
}

/** A text of one line: line breaks and other control characters would let a name look like something else in a list or a mail. */
export function isOneLine(text: string, context: z.RefinementCtx): void {
  if (/[\p{Cc}\p{Zl}\p{Zp}]/u.test(text))
    context.addIssue({ code: "custom", message: "a name is one line, without line breaks or control characters" });
}

/** A unit as UCUM writes it. */
export function isUnit(code: string, context: z.RefinementCtx): void {
  try {
    parseUnit(code);
  } catch (error) {
    context.addIssue({ code: "custom", message: (error as Error).message });
  }
}
