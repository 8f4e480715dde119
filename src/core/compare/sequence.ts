import { ndtri, stdtri } from "cephes";
import { blockLength } from "./resample";

/** Several measures and releases are looked at together. */
const ALPHA = 0.01;
/** After how many minutes a look is sharpest; before and after, it is a little less so. */
const SHARPEST = 20;
/** At the sharpest, the intrinsic time of the sequence: about where its bound is least for alpha = 0.01. */
const BEST = 10;

/**
 * How many standard errors an interval reaches to either side so that it holds at every look at once, however often
 * somebody looks while minutes come in: an asymptotic confidence sequence by a mixture of normals (Waudby-Smith, Arbour,
 * Sinha, Kennedy and Ramdas, "Time-uniform central limit theory and asymptotic confidence sequences", 2024, theorem 2.2).
 *
 * @param minutes seen so far
 * @returns Infinity where there is no spread to be told
 */
export function reach(minutes: number): number {
  if (blocksOf(minutes) < 2) return Number.POSITIVE_INFINITY;
  const time = (minutes / SHARPEST) * BEST;
  return Math.sqrt(2 * (1 + 1 / time) * (Math.log(time + 1) / 2 - Math.log(ALPHA)));
}

const blocksOf = (minutes: number) => Math.floor(minutes / blockLength(minutes));

/**
 * A variance of which a part is known, that of calls that come each by itself, and the rest is told by samples of few
 * blocks: the rest is as uncertain as Student's t is against the normal, and made greater by that.
 *
 * @param alone the variance, were each call by itself
 * @param sampled the variance over samples of blocks
 * @param minutes seen so far
 */
export function varianceOf(alone: number, sampled: number, minutes: number): number {
  const blocks = blocksOf(minutes);
  if (blocks < 2) return Number.POSITIVE_INFINITY;
  const excess = Math.max(0, (sampled * blocks) / (blocks - 1) - alone);
  const few = stdtri(blocks - 1, 1 - ALPHA / 2) / ndtri(1 - ALPHA / 2);
  return alone + few * few * excess;
}
