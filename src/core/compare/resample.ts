import { uniformInt } from "pure-rand/distribution/uniformInt";
import { xoroshiro128plus } from "pure-rand/generator/xoroshiro128plus";

/** Minutes that stay together where there are enough of them: neighbours are alike. */
const LONGEST_BLOCK = 5;
/** Blocks that there are at least, while there are as many minutes: of fewer, no spread can be told. */
const LEAST_BLOCKS = 8;

/** How many minutes stay together. */
export function blockLength(minutes: number): number {
  return Math.max(1, Math.min(LONGEST_BLOCK, Math.floor(minutes / LEAST_BLOCKS)));
}

/** A sample of minutes: which are in it, and how often. */
export interface Draw {
  minutes: Int32Array;
  times: Float64Array;
}

/** Every minute once: what was seen. */
export function asSeen(minutes: number): Draw {
  return { minutes: Int32Array.from({ length: minutes }, (_, i) => i), times: new Float64Array(minutes).fill(1) };
}

/**
 * Samples of minutes, drawn with replacement in blocks that run on from the last minute to the first: the block
 * bootstrap keeps what neighbouring minutes have in common (Künsch, "The jackknife and the bootstrap for general
 * stationary observations", 1989; in a circle: Politis and Romano 1992).
 *
 * @param seed the same gives the same samples
 */
export function draws(minutes: number, count: number, seed: number): Draw[] {
  const random = xoroshiro128plus(seed);
  const length = blockLength(minutes);
  const blocks = Math.ceil(minutes / length);
  return Array.from({ length: count }, () => {
    const times = new Float64Array(minutes);
    let left = minutes;
    for (let block = 0; block < blocks; block++) {
      const from = uniformInt(random, 0, minutes - 1);
      for (let i = 0; i < length && left > 0; i++, left--) times[(from + i) % minutes]++;
    }
    const chosen = Int32Array.from(times.keys()).filter((minute) => times[minute] > 0);
    return { minutes: chosen, times: Float64Array.from(chosen, (minute) => times[minute]) };
  });
}
