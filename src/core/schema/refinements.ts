import { RE2JS } from "re2js";
import type { z } from "zod";
import { parseUnit } from "../unit/unit";

/** What texts in schemas have to be. */

/** A pattern on the linear-time engine (RE2). */
export function isPattern(text: string, context: z.RefinementCtx): void {
  try {
    RE2JS.compile(text);
  } catch (error) {
    context.addIssue({ code: "custom", message: `the pattern is not understood: ${(error as Error).message}` });
  }
}

/** A unit as UCUM writes it. */
export function isUnit(code: string, context: z.RefinementCtx): void {
  try {
    parseUnit(code);
  } catch (error) {
    context.addIssue({ code: "custom", message: (error as Error).message });
  }
}
