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

/** A sample of minutes, as blocks of neighbours; behind the last minute the first follows. */
export interface Draw {
  minutes: number;
  /** The first minute of each block. */
  starts: Int32Array;
  /** Minutes of each block but the last, and of that. */
  length: number;
  rest: number;
}

/** Every minute once: what was seen. */
export function asSeen(minutes: number): Draw {
  return { minutes, starts: new Int32Array(minutes > 0 ? 1 : 0), length: minutes, rest: minutes };
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
  const rest = minutes - (blocks - 1) * length;
  return Array.from({ length: count }, () => {
    const starts = new Int32Array(blocks);
    for (let block = 0; block < blocks; block++) starts[block] = uniformInt(random, 0, minutes - 1);
    return { minutes, starts, length, rest };
  });
}

/** The sums of so many neighbours, by the first of them; behind the last the first follows. */
function sumsOfNeighbours(values: Float64Array, length: number): Float64Array {
  const sums = values.slice();
  for (let i = 0; i < sums.length; i++) for (let k = 1; k < length; k++) sums[i] += values[(i + k) % values.length];
  return sums;
}

/** Numbers by minute that are added up over many samples: sums of neighbours are made once. */
export class MinuteColumn {
  private blocks: Float64Array | null = null;
  private length = 0;

  constructor(private readonly values: Float64Array) {}

  /** Their sum over a sample. */
  sum({ starts, length, rest }: Draw): number {
    const { values } = this;
    const last = starts.length - 1;
    let total = 0;
    if (last > 0) {
      if (this.blocks === null || this.length !== length) {
        this.blocks = sumsOfNeighbours(values, length);
        this.length = length;
      }
      const { blocks } = this;
      for (let i = 0; i < last; i++) total += blocks[starts[i]];
    }
    for (let i = 0; last >= 0 && i < rest; i++) total += values[(starts[last] + i) % values.length];
    return total;
  }
}
