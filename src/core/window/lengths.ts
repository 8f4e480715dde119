/** Lengths of time, ms. Days are those of UTC; what people see goes by their zone. */

export const MINUTE = 60_000;
export const HOUR = 60 * MINUTE;
export const DAY = 24 * HOUR;

/** Milliseconds of each duration unit. */
export const DURATIONS: Readonly<Record<string, number>> = {
  ms: 1,
  s: 1000,
  m: 60_000,
  min: 60_000,
  h: 3600_000,
  d: 86400_000,
  w: 604800_000,
};
