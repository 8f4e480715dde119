import { emptyPointSet, type Layout, layoutKey, type PointSet } from "../metric/model";
import { columnMap, unionLayout } from "../metric/ranges";

/** Widest exponential bucket range that is laid out densely; further apart, points get entries of their own. */
const WIDEST = 640;

/** A point set with its place in the order of arrival: of two points of equal series and time the later stays. */
export interface Arrived {
  set: PointSet;
  arrived: number;
}

/** A run of rows of one set. */
interface Run {
  set: PointSet;
  arrived: number;
  /** Rows, ascending; null for all of the set. */
  rows: number[] | null;
}

function firstTime(run: Run): number {
  return run.set.timeMs[run.rows ? run.rows[0] : 0];
}

function lastTime(run: Run): number {
  return run.set.timeMs[run.rows ? run.rows[run.rows.length - 1] : run.set.count - 1];
}

function isOneSeries(set: PointSet): boolean {
  return set.series[0] === set.series[set.count - 1] && set.series.every((id) => id === set.series[0]);
}

/** Splits sets by series. `keep` says which series are wanted. */
function runsBySeries(sets: readonly Arrived[], keep: (series: number) => boolean): Map<number, Run[]> {
  const bySeries = new Map<number, Run[]>();
  const add = (series: number, run: Run) => {
    const runs = bySeries.get(series);
    if (runs) runs.push(run);
    else bySeries.set(series, [run]);
  };
  for (const { set, arrived } of sets) {
    if (set.count === 0) continue;
    if (set.count > 1 && isOneSeries(set)) {
      if (keep(set.series[0])) add(set.series[0], { set, arrived, rows: null });
      continue;
    }
    const open = new Map<number, Run>();
    for (let row = 0; row < set.count; row++) {
      const series = set.series[row];
      const run = open.get(series);
      if (run) run.rows!.push(row);
      else if (keep(series)) {
        const started = { set, arrived, rows: [row] };
        open.set(series, started);
        add(series, started);
      }
    }
  }
  return bySeries;
}

/** Whether the runs, in order, form one rising sequence of times, so that they can be laid end to end. */
function inSequence(runs: readonly Run[]): boolean {
  let last = Number.NEGATIVE_INFINITY;
  for (const run of runs) {
    if (firstTime(run) <= last) return false;
    const { timeMs } = run.set;
    const size = run.rows ? run.rows.length : run.set.count;
    for (let i = 0; i < size; i++) {
      const time = timeMs[run.rows ? run.rows[i] : i];
      if (time <= last) return false;
      last = time;
    }
  }
  return true;
}

/** Sorts by time and drops the earlier arrivals of repeated points. */
function untangle(runs: readonly Run[]): Run[] {
  const refs: { run: Run; row: number }[] = [];
  for (const run of runs) {
    const size = run.rows ? run.rows.length : run.set.count;
    for (let i = 0; i < size; i++) refs.push({ run, row: run.rows ? run.rows[i] : i });
  }
  const ms = (ref: { run: Run; row: number }) => ref.run.set.timeMs[ref.row];
  const ns = (ref: { run: Run; row: number }) => ref.run.set.timeNs[ref.row];
  refs.sort((a, b) => ms(a) - ms(b) || ns(a) - ns(b) || a.run.arrived - b.run.arrived || a.row - b.row);
  const result: Run[] = [];
  refs.forEach((ref, i) => {
    const next = refs[i + 1];
    if (next && ms(next) === ms(ref) && ns(next) === ns(ref)) return;
    const last = result[result.length - 1];
    if (last && last.set === ref.run.set && last.rows![last.rows!.length - 1] < ref.row) last.rows!.push(ref.row);
    else result.push({ set: ref.run.set, arrived: ref.run.arrived, rows: [ref.row] });
  });
  return result;
}

/** One layout for both, or null where they cannot share one. */
export function together(a: Layout, b: Layout): Layout | null {
  if (a === b) return a;
  if (layoutKey(a) !== layoutKey(b)) return null;
  if (a.kind !== "exponential" || b.kind !== "exponential") return a;
  const union = unionLayout(a, b);
  return union.negative.width + union.positive.width > WIDEST ? null : union;
}

function concatenate(layout: Layout, runs: readonly Run[]): PointSet {
  const only = runs[0];
  if (runs.length === 1 && only.rows === null && only.set.layout === layout) return only.set;
  let count = 0;
  for (const run of runs) count += run.rows ? run.rows.length : run.set.count;
  const whole = emptyPointSet(layout, count);
  let at = 0;
  for (const { set, rows } of runs) {
    const copy = (from: Float64Array, to: Float64Array) => {
      if (rows === null) to.set(from, at);
      else for (let i = 0; i < rows.length; i++) to[at + i] = from[rows[i]];
    };
    copy(set.series, whole.series);
    copy(set.timeMs, whole.timeMs);
    copy(set.timeNs, whole.timeNs);
    copy(set.startMs, whole.startMs);
    copy(set.startNs, whole.startNs);
    copy(set.flags, whole.flags);
    const map =
      set.layout.kind === "exponential" && layout.kind === "exponential" && set.layout !== layout
        ? columnMap(set.layout, layout)
        : null;
    for (let i = 0; i < set.columns.length; i++) copy(set.columns[i], whole.columns[map ? map[i] : i]);
    at += rows ? rows.length : set.count;
  }
  return whole;
}

/**
 * Brings point sets, fresh and merged alike, to one list of sets per series: sorted by time, every (series, time)
 * once (the later arrival wins). A series has several sets only where its layout changes on the way.
 *
 * @param keep which series are wanted; all where left out
 */
export function assemble(sets: readonly Arrived[], keep: (series: number) => boolean = () => true) {
  const result = new Map<number, PointSet[]>();
  for (const [series, found] of runsBySeries(sets, keep)) {
    const runs = inSequence(found) ? found : sequence(found);
    const parts: PointSet[] = [];
    let layout = runs[0].set.layout;
    let from = 0;
    for (let i = 1; i < runs.length; i++) {
      const wider = together(layout, runs[i].set.layout);
      if (wider === null) {
        parts.push(concatenate(layout, runs.slice(from, i)));
        from = i;
        layout = runs[i].set.layout;
      } else layout = wider;
    }
    parts.push(concatenate(layout, runs.slice(from)));
    result.set(series, parts);
  }
  return result;
}

/** Runs in time order: end to end where sorting them is enough, else untangled point by point. */
function sequence(runs: Run[]): Run[] {
  const sorted = [...runs].sort((a, b) => firstTime(a) - firstTime(b) || lastTime(a) - lastTime(b));
  return inSequence(sorted) ? sorted : untangle(runs);
}
