import { isLevel, type MetricIdentity, type PointSet } from "../metric/model";
import { tracksOf } from "../reading/tracks";
import { levelRows } from "./levels";
import { summed } from "./summed";
import { thinned } from "./thinned";

/**
 * Rolls the points of one series up to cells (k·width, (k+1)·width]. What comes out are points again, fewer of them,
 * of which every reading whose bounds are bounds of cells gives the same numbers as of all; so cells can be rolled up
 * to larger ones, and rolled-up points and others may follow each other in one series.
 *
 * @param parts the points in time order, a set per layout
 */
export function rollUp(identity: MetricIdentity, parts: readonly PointSet[], width: number): PointSet[] {
  if (isLevel(identity)) return levelRows(parts, width);
  if (identity.temporality === "delta") {
    return tracksOf(identity, parts, Number.NEGATIVE_INFINITY)
      .tracks.map((track) => summed(track, width))
      .filter(({ count }) => count > 0);
  }
  return parts.map((part) => thinned(part, width, identity.kind === "sum" && !identity.monotonic));
}
