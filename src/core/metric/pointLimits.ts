import type { Layout } from "./model";

/**
 * What a stored point may be. The door (receivers, scraper, command, pipeline), the format of strips and the merger hold
 * to the same numbers: what is let in can be written, read, joined and rolled up.
 */

/** Buckets of one histogram, or quantiles of one summary, that come in. */
export const MAX_WIDTH = 1024;
/** Buckets or quantiles of one layout that the format holds: what comes in, joined. */
export const MAX_STORED_WIDTH = 4096;
/** The end of the year 9999, Unix ms: as late as a time can be written down. */
export const MAX_TIME = 253_402_300_799_999;
export const MIN_SCALE = -10;
export const MAX_SCALE = 20;
/** No version and no number of what is kept in a table is greater: a column of whole numbers holds it. */
export const MAX_NUMBERED = 2_147_483_647;
/** Powers of two that a double can be. */
const LEAST_POWER = -1076;
const GREATEST_POWER = 1025;

function isInstant(ms: number, ns: number): boolean {
  return Number.isInteger(ms) && ms >= 0 && ms <= MAX_TIME && Number.isInteger(ns) && ns >= 0 && ns < 1_000_000;
}

interface Head {
  timeMs: number;
  timeNs: number;
  startMs: number;
  startNs: number;
}

/** Why the times of a point cannot be stored, or null. */
export function headProblem({ timeMs, timeNs, startMs, startNs }: Head): string | null {
  if (timeMs === 0 && timeNs === 0) return "a point has no time";
  if (!isInstant(timeMs, timeNs)) return "the time of a point is beyond the year 9999, or no time at all";
  if (!isInstant(startMs, startNs)) return "the start of a point is beyond the year 9999, or no time at all";
  return null;
}

function rangeProblem(from: number, width: number, scale: number): string | null {
  if (width === 0) return null;
  const per = 2 ** scale;
  const fits = Number.isInteger(from) && (from + 1) / per >= LEAST_POWER && (from + width - 1) / per <= GREATEST_POWER;
  return fits ? null : `buckets from index ${from} at scale ${scale} lie where no number is`;
}

/** Why points of a layout are not taken, or null. */
export function layoutProblem(layout: Layout, most = MAX_WIDTH): string | null {
  switch (layout.kind) {
    case "explicit": {
      const { bounds } = layout;
      if (bounds.length > most) return `${bounds.length} bucket bounds, at most ${most} are taken`;
      for (let i = 0; i < bounds.length; i++)
        if (!Number.isFinite(bounds[i]) || (i > 0 && bounds[i] <= bounds[i - 1])) return "bucket bounds do not rise";
      return null;
    }
    case "exponential": {
      const { scale, zeroThreshold, positive, negative } = layout;
      if (!Number.isInteger(scale) || scale < MIN_SCALE || scale > MAX_SCALE)
        return `scale ${scale} lies outside ${MIN_SCALE} to ${MAX_SCALE}`;
      if (!(zeroThreshold >= 0) || !Number.isFinite(zeroThreshold))
        return `a zero threshold of ${zeroThreshold} is none; it is a number from 0 on`;
      const width = positive.width + negative.width;
      if (width > most) return `${width} buckets, at most ${most} are taken`;
      return rangeProblem(positive.from, positive.width, scale) ?? rangeProblem(negative.from, negative.width, scale);
    }
    case "summary": {
      const { quantiles } = layout;
      if (quantiles.length > most) return `${quantiles.length} quantiles, at most ${most} are taken`;
      return quantiles.every((quantile) => quantile >= 0 && quantile <= 1) ? null : "a quantile lies outside 0 to 1";
    }
    default:
      return null;
  }
}

/** Why a number of observations is none, or null. */
export function countProblem(count: number): string | null {
  return count >= 0 && Number.isFinite(count) ? null : `a count of ${count} is none`;
}
