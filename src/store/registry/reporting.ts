import { MINUTE } from "@/core/window/lengths";

/** An instance counts as reporting for this long after it was last heard, ms. */
export const REPORTING = 10 * MINUTE;
