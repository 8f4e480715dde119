import { coarserLayout, downscale } from "../histogram/downscale";
import { columnCount, emptyPointSet, type Layout, type MetricIdentity, type PointSet } from "../metric/model";
import { unionLayout } from "../metric/ranges";
import { takeRows } from "../strip/strip";
import { type Increases, increasesOf, levels, SKIP, timesOf, WHOLE } from "./increase";

/** A set of one series with what each of its rows adds. */
export interface Track {
  set: PointSet;
  increases: Increases;
}

type Exponential = Extract<Layout, { kind: "exponential" }>;

/** The coarsest scale and widest ranges of two exponential layouts. */
export function commonLayout(a: Exponential, b: Exponential): Exponential {
  const scale = Math.min(a.scale, b.scale);
  return unionLayout(coarserLayout(a, scale), coarserLayout(b, scale));
}

function lastRow(set: PointSet): PointSet {
  return takeRows(set, Int32Array.of(set.count - 1));
}

function joined(a: PointSet, b: PointSet): PointSet {
  const set = emptyPointSet(a.layout, 2);
  [a, b].forEach((one, row) => {
    set.series[row] = one.series[0];
    set.timeMs[row] = one.timeMs[0];
    set.timeNs[row] = one.timeNs[0];
    set.startMs[row] = one.startMs[0];
    set.startNs[row] = one.startNs[0];
    set.flags[row] = one.flags[0];
    for (let c = 0; c < columnCount(a.layout); c++) set.columns[c][row] = one.columns[c][0];
  });
  return set;
}

/** What the first point of a layout adds to the last point of the layout before it, in a series whose layout changed. */
function bridge(before: PointSet, next: PointSet, earliest: number): Track {
  const last = lastRow(before);
  const first = takeRows(next, Int32Array.of(0));
  const [a, b] = [last.layout, first.layout];
  if (a.kind === "exponential" && b.kind === "exponential" && a.zeroThreshold === b.zeroThreshold) {
    const layout = commonLayout(a, b);
    const set = joined(downscale(last, layout), downscale(first, layout));
    return { set, increases: increasesOf(set, "cumulative", earliest, true) };
  }
  // Bounds that differ cannot be subtracted: only a reset, whose point counts as a whole, can be told.
  const increases = increasesOf(first, "cumulative", earliest, true);
  const startChanged = last.startMs[0] !== first.startMs[0] || last.startNs[0] !== first.startNs[0];
  if (startChanged || levels(first)[0] < levels(last)[0]) {
    const before = timesOf(last)[0];
    const start = first.startMs[0] + first.startNs[0] / 1e6;
    increases.rule[0] = WHOLE;
    increases.from[0] = start >= before && start <= increases.to[0] ? start : before;
  } else increases.rule[0] = SKIP;
  return { set: first, increases };
}

const kept = new WeakMap<readonly PointSet[], { earliest: number; tracks: Track[] }>();

/** The tracks of one series of a counter or histogram, in time order. */
export function tracksOf(identity: MetricIdentity, parts: readonly PointSet[], earliest: number): Track[] {
  const known = kept.get(parts);
  if (known?.earliest === earliest) return known.tracks;
  const tracks: Track[] = [];
  const cumulative = identity.temporality !== "delta";
  const unbounded = identity.kind === "sum" && !identity.monotonic;
  parts.forEach((set, i) => {
    const follows = cumulative && i > 0;
    if (follows) tracks.push(bridge(parts[i - 1], set, earliest));
    tracks.push({
      set,
      increases: increasesOf(set, cumulative ? "cumulative" : "delta", earliest, follows, unbounded),
    });
  });
  kept.set(parts, { earliest, tracks });
  return tracks;
}
