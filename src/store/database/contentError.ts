import { StripError } from "@/core/strip/bytes";

/**
 * SQLSTATEs that say that a value cannot be stored (PostgreSQL, "Error Codes"): too long, out of range, a moment or a text
 * that is none, bytes or characters that the encoding lacks, a row that is too large.
 */
const CONTENT = new Set(["22001", "22003", "22007", "22008", "22021", "22P02", "22P03", "22P05", "54000"]);

const stateOf = (error: unknown) => String((error as { code?: unknown }).code);

/**
 * Whether a failure to write lies in what was to be written: what the packing of strips names as such, and named SQLSTATEs.
 * Everything else, our own mistakes included, is ours: nobody is told that points were taken that were not.
 */
export function isContentError(error: unknown): boolean {
  return error instanceof StripError || CONTENT.has(stateOf(error));
}

/** Whether a failure to read lies in bytes that were stored: then they are damaged, and work goes on without them. */
export function isDamage(error: unknown): boolean {
  return isContentError(error) || error instanceof RangeError || error instanceof TypeError;
}

/** Whether a row found no partition: it was dropped after somebody saw it. */
export function isMissingPartition(error: unknown): boolean {
  return stateOf(error) === "23514" && /no partition of relation/.test(String((error as Error).message));
}
