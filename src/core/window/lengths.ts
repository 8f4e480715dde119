/** Lengths of time, ms. Days are those of UTC; what people see goes by their zone. */

export const MINUTE = 60_000;
export const HOUR = 60 * MINUTE;
export const DAY = 24 * HOUR;
