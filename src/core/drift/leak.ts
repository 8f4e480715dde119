import { median } from "./robust";
import { slopeOf } from "./slope";

/** Memory that rises until the process is started again. */

export interface Leak {
  /** Per ms, the middle of all stretches. */
  slope: number;
  /** How long a stretch lasts, ms, and how many there were. */
  every: number;
  stretches: number;
  /** How much of it is gained in a stretch. */
  gained: number;
}

/** A fall by this part of what it was is a start. */
const FALL = 0.25;
/** A stretch has so many values at least. */
const LEAST = 5;
/** So many stretches have to rise, and all but this part of them. */
const LEAST_STRETCHES = 3;
const MOST_ODD = 0.2;
/** What is gained in a stretch has to be this part of where it began. */
const LEAST_GAIN = 0.2;

/** The stretches between starts. */
function stretchesOf(values: ArrayLike<number>): { from: number; to: number }[] {
  const found: { from: number; to: number }[] = [];
  let from = 0;
  for (let i = 1; i <= values.length; i++) {
    if (i < values.length && values[i] > (1 - FALL) * values[i - 1]) continue;
    if (i - from >= LEAST) found.push({ from, to: i });
    from = i;
  }
  return found;
}

/**
 * Finds a leak in the memory of one instance: stretches that rise, each ended by a start that frees it again.
 *
 * @param times rising, Unix ms
 * @returns null where it does not look like one
 */
export function leakIn(times: ArrayLike<number>, values: ArrayLike<number>): Leak | null {
  const stretches = stretchesOf(values).map(({ from, to }) => {
    const [own, at] = [Array.from(values).slice(from, to), Array.from(times).slice(from, to)];
    const slope = slopeOf(at, own);
    const length = at[at.length - 1] - at[0];
    return { slope, length, gained: (slope?.value ?? 0) * length, start: own[0] };
  });
  const rising = stretches.filter(({ slope, gained, start }) => slope && slope.low > 0 && gained > LEAST_GAIN * start);
  if (rising.length < LEAST_STRETCHES || rising.length < (1 - MOST_ODD) * stretches.length) return null;
  return {
    slope: median(rising.map(({ slope }) => slope!.value)),
    every: median(rising.map(({ length }) => length)),
    stretches: rising.length,
    gained: median(rising.map(({ gained }) => gained)),
  };
}
