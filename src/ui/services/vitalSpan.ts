import { MINUTE } from "@/core/window/lengths";
import type { Span } from "@/core/window/window";

const LENGTH = 5 * MINUTE;

/** Vital signs are those of the last minutes of a window. */
export function vitalSpan({ from, to }: Span): Span {
  return { from: Math.max(from, to - LENGTH), to };
}
