import { StripError } from "@/core/strip/bytes";

/**
 * Whether a failure lies in what was to be written rather than in the store. SQLSTATE classes 22 (data), 23 (integrity)
 * and 54 (limits of the program: a row too long for an index) are the content's; so is what our own packing cannot take.
 */
export function isContentError(error: unknown): boolean {
  if (error instanceof StripError || error instanceof RangeError || error instanceof TypeError) return true;
  return /^(22|23|54)/.test(String((error as { code?: unknown }).code));
}
