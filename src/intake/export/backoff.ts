/** How long to wait before the next attempt: twice as long each time, with jitter, so that many do not come at once. */

const FIRST = 1000;
const LONGEST = 30_000;

/**
 * @param attempt how many failed so far, from 1
 * @param after what the other side asked for, ms; null where it said nothing
 * @param random between 0 and 1
 * @returns ms
 */
export function backoff(attempt: number, after: number | null, random: number): number {
  const wait = Math.min(LONGEST, FIRST * 2 ** (attempt - 1));
  const drawn = wait * (0.5 + random / 2);
  return Math.round(after === null ? drawn : after + drawn * 0.2);
}
