import { wilson } from "../compare/shares";
import type { Interval } from "../histogram/intervals";
import { type Bounded, quantile, totalCount } from "../histogram/quantile";
import { type Stay, staysOf } from "../release/stays";
import { makeCells } from "./cells";
import { distributionOf } from "./distribution";
import { groupSeries } from "./grouping";
import { parseReading } from "./language/parse";
import { metricText } from "./language/quote";
import type { MeasureNode } from "./language/tree";
import { evaluateMeasure } from "./measure";
import type { Row } from "./rows";
import { firstCovered } from "./scalars";
import type { Source } from "./source";

/** A rate over less than this would say little, ms: what is covered so shortly counts up to the end of the window. */
const LEAST_COVERED = 5000;

/** A percentile, with the bounds in which the true one lies; null where there is none on a side. */
export interface Percentile {
  value: number;
  low: number | null;
  high: number | null;
}

/** One release on the ladder: what it did in the window. Times in Unix ms, rates per second. */
export interface Rung {
  release: string | null;
  /** First and last step with traffic: start of the one, end of the other. */
  servedFrom: number;
  servedTo: number;
  calls: number;
  /** The spans in which it served, the latest last: what came again after it was gone is another stay. */
  stays: Stay[];
  /** Calls per second by step; null where nothing arrived, and where instances have yet to report. */
  throughput: (number | null)[];
  peak: number;
  /** Over the recent part of the window: calls per second and the part of the service's calls. */
  recentRate: number | null;
  recentShare: number | null;
  p50: Percentile | null;
  p95: Percentile | null;
  /** Share of failed calls in the window. */
  errors: number | null;
  /** Within which the true share lies with 99 % (Wilson), were each call by itself; null where there is none. */
  errorBounds: { low: number; high: number } | null;
  /** Share of calls per bin of the shared axis. */
  heat: number[];
}

/** Rungs that a ladder shows: who releases with every commit has hundreds in a week. */
const MAX_RUNGS = 60;
/** Releases that serve at the end of the window are shown besides, up to so many altogether. */
const MAX_SERVING = 120;

/** The newest rungs, and those that serve. @param ordered the newest first */
export function shownRungs<T extends Pick<Rung, "recentShare">>(ordered: readonly T[]): T[] {
  return ordered.filter(({ recentShare }, i) => i < MAX_RUNGS || recentShare !== null).slice(0, MAX_SERVING);
}

export interface Ladder {
  times: number[];
  /** Bounds of the bins of the latency axis, rising, in the metric's unit. */
  axis: number[];
  rungs: Rung[];
  /** From when on "recent" counts. */
  recentFrom: number;
  /** The moment after which numbers may still change as instances report, Unix ms; null where all is settled. */
  settledTo: number | null;
}

const BINS = 96;
/** Observations outside these quantiles do not stretch the axis. */
const AXIS_FROM = 0.002;
const AXIS_TO = 0.998;

function nulled(value: number): number | null {
  return Number.isFinite(value) ? value : null;
}

const counted = (calls: number) => (Number.isNaN(calls) ? 0 : calls);

function percentileOf(found: Bounded | null): Percentile | null {
  return found && { value: found.value, low: nulled(found.low), high: nulled(found.high) };
}

/** Bounds of the bins of an axis on which all of these lie, rising. */
export function logAxis(all: readonly Interval[]): number[] {
  const low = quantile(all, AXIS_FROM);
  const high = quantile(all, AXIS_TO);
  if (!low || !high) return [];
  const top = Number.isFinite(high.high) ? high.high : high.value * 2;
  // A first bucket that begins at 0 has no place on a logarithmic axis: a quarter of its end stands for it.
  const from = Math.max(low.low > 0 ? low.low : low.high / 4, top / 1e6) || top / 1e3;
  const to = Math.max(top, from * 2);
  return Array.from({ length: BINS + 1 }, (_, i) => from * (to / from) ** (i / BINS));
}

/** The part of an interval below x on a logarithmic axis, for drawing. */
function drawnBelow({ low, high }: Interval, x: number, floor: number): number {
  const from = Math.max(low, floor);
  if (x >= high) return 1;
  if (x <= from) return 0;
  return Number.isFinite(high) ? Math.log(x / from) / Math.log(high / from) : 0;
}

/** The share of calls in each bin; what lies outside the axis is in the outermost bins. */
export function heatOf(intervals: readonly Interval[], axis: readonly number[]): number[] {
  const bins = new Array<number>(Math.max(0, axis.length - 1)).fill(0);
  const total = totalCount(intervals);
  if (bins.length === 0 || total <= 0) return bins;
  const floor = axis[0] / 2;
  for (const interval of intervals) {
    let below = 0;
    for (let i = 0; i < bins.length; i++) {
      const upTo = i === bins.length - 1 ? 1 : drawnBelow(interval, axis[i + 1], floor);
      bins[i] += ((upTo - below) * interval.count) / total;
      below = upTo;
    }
  }
  return bins;
}

/** Standard errors of an interval of 99 %. */
const REACH = 2.576;

function boundsOfShare(share: number, calls: number): Rung["errorBounds"] {
  if (!Number.isFinite(share) || !(calls > 0)) return null;
  const { low, high } = wilson(share * calls, calls, REACH);
  return { low, high };
}

/** How a release's ladder row is computed, as readings; the page states them. */
export interface LadderReadings {
  metric: string;
  /** Which calls count as failed, as a condition. */
  failed: string;
}

function measure(text: string): MeasureNode {
  return parseReading(text).expression as MeasureNode;
}

function byRelease(rows: readonly Row[]): Map<string | null, Row> {
  return new Map(rows.map((row) => [row.labels["service.version"], row]));
}

/**
 * The ladder of a service from the histogram of its calls.
 *
 * @param steps bounds of the steps of the window
 * @param recent length of the recent part at the end of the window, ms
 */
export function ladderOf(source: Source, steps: Float64Array, readings: LadderReadings, recent: number): Ladder {
  const name = metricText(readings.metric);
  const from = steps[0];
  const to = steps[steps.length - 1];
  const rates = evaluateMeasure(measure(`rate of ${name} by release`), source, steps, {});
  // What instances have yet to report is no part of what a release does lately. A release that has gone meanwhile is
  // awaited for a while, but not by the others.
  // One that is gone for good is settled, whatever the others are.
  const awaited = rates.rows.map(({ settledTo }) => settledTo).filter(Number.isFinite);
  const settled = Math.max(...awaited);
  const until = settled > from && settled < to ? settled : to;
  const recentFrom = Math.max(from, until - recent);
  const counts = evaluateMeasure(measure(`count of ${name} by release`), source, steps, {});
  const errors = evaluateMeasure(
    measure(`share of ${name} that ${readings.failed} by release`),
    source,
    Float64Array.of(from, to),
    {},
  );
  // Those that began, or went, at the same time are counted together.
  const since = new Map<number, ReturnType<typeof countSince>>();
  const countedSince = (moment: number) => {
    const found = since.get(moment) ?? countSince(moment);
    since.set(moment, found);
    return found;
  };
  const countSince = (since: number) => {
    const end = until - since < LEAST_COVERED ? to : until;
    const { rows } = evaluateMeasure(measure(`count of ${name} by release`), source, Float64Array.of(since, end), {});
    return {
      end,
      rows: byRelease(rows),
      all: rows.reduce((sum, { total }) => sum + (Number.isNaN(total) ? 0 : total), 0),
    };
  };
  const lately = countedSince(recentFrom);
  const cells = makeCells(Float64Array.of(from, to), null);
  const found = groupSeries(source, () => true, ["service.version"]).map((group) => ({
    release: group.labels["service.version"],
    began: firstCovered(group, recentFrom, until, source.earliest),
    intervals: distributionOf(group, cells, source.earliest).window() ?? [],
  }));
  const axis = logAxis(found.flatMap(({ intervals }) => intervals));
  const [countOf, rateOf, errorsOf] = [counts, rates, errors].map(({ rows }) => byRelease(rows));
  const everybody = Float64Array.from({ length: steps.length - 1 }, (_, i) =>
    counts.rows.reduce((total, { values }) => total + counted(values[i]), 0),
  );
  const rungs = found.flatMap(({ release, intervals, began }): Rung[] => {
    const row = countOf.get(release);
    const busy = row ? Array.from(row.values.keys()).filter((i) => row.values[i] > 0) : [];
    if (!row || busy.length === 0) return [];
    const rate = rateOf.get(release);
    const throughput = Array.from(row.values, (_, i) =>
      rate && steps[i] < rate.settledTo ? nulled(rate.values[i]) : null,
    );
    // A release that began meanwhile is measured over the time since, and so is what it shares.
    const recently = began > recentFrom ? countedSince(began) : lately;
    const recentCalls = recently.rows.get(release)?.total ?? Number.NaN;
    const share = errorsOf.get(release)?.total ?? Number.NaN;
    return [
      {
        release,
        servedFrom: steps[busy[0]],
        servedTo: steps[busy[busy.length - 1] + 1],
        calls: row.total,
        stays: staysOf(
          steps,
          row.values,
          everybody.map((all, i) => all - counted(row.values[i])),
        ),
        throughput,
        peak: Math.max(0, ...throughput.map((value) => value ?? 0)),
        recentRate: recentCalls > 0 ? (recentCalls * 1000) / (recently.end - Math.max(began, recentFrom)) : null,
        recentShare: recentCalls > 0 ? recentCalls / recently.all : null,
        p50: percentileOf(quantile(intervals, 0.5)),
        p95: percentileOf(quantile(intervals, 0.95)),
        errors: nulled(share),
        errorBounds: boundsOfShare(share, row.total),
        heat: heatOf(intervals, axis),
      },
    ];
  });
  return { times: Array.from(steps.subarray(1)), axis, rungs, recentFrom, settledTo: until < to ? until : null };
}
