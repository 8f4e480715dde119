import type { MetricIdentity, PointSet } from "../metric/model";
import { FLAG, isLevel } from "../metric/model";
import type { Batch } from "../otlp/batch/batch";
import { type Dictionary, identityOfKey, type KnownSeries, metricKey, metricOfKey } from "../otlp/dictionary";
import { type Amount, amountAt, countOf, minus, type TimedAmount } from "./amount";

/**
 * What each point of a counter or histogram adds (OpenTelemetry metrics data model, "Resets and Gaps"), point by point
 * in the order of time: a delta all of its value; a total what it is more than the one before, or all of it where it
 * began anew. A first total adds all of its value where its start lies after the beginning, else it is only a base.
 * Remembered are a base per series, and the times of deltas of the last minute: one that is sent again adds nothing. Where
 * totals of another start come between, two processes write one series: each is counted by its own start.
 */

/** For how long a delta is known by its time, ms: senders try again sooner. */
const KNOWN = 60_000;
/** For how long a total of another start is known, ms, and how many are: a process that was replaced does not come back. */
const SILENT = 600_000;
const MAX_WRITERS = 8;
/** Series that are remembered. Points of others are refused. */
export const MAX_REMEMBERED = 200_000;

export type Row = TimedAmount;

/** What is remembered of a series, as plain data. Of deltas the amount is nothing. */
export interface Base extends TimedAmount {
  times?: number[];
  /** The last totals of other starts, where there are any, the latest first. */
  others?: TimedAmount[];
}

/** The last total of each process that writes a series. */
export function totalsOf({ start, time, amount, others }: Base): TimedAmount[] {
  return [{ start, time, amount }, ...(others ?? [])];
}

/** What a point adds, and since when; `added` is null where it is only a base. */
export interface Increase {
  added: Amount | null;
  since: number;
}

const NOTHING: Amount = { kind: "number", value: 0, integer: true };

/** A text that tells a series from all others. */
export function seriesText({ metric, key }: KnownSeries): string {
  return `${metricKey(metric.identity)}\u0001${key}`;
}

/** The series that a {@link seriesText} was made of. */
export function seriesOfText(text: string, dictionary: Dictionary): KnownSeries {
  const at = text.indexOf("\u0001");
  return dictionary.series(dictionary.metric(metricOfKey(text.slice(0, at)), ""), identityOfKey(text.slice(at + 1)));
}

/** Whether a metric's points are added up; levels, and quantiles worked out elsewhere, can only be replaced. */
export function isAdded(identity: MetricIdentity): boolean {
  return identity.kind !== "summary" && !isLevel(identity);
}

function rowOf(set: PointSet, row: number): Row | null {
  const amount = amountAt(set, row);
  if (!amount || !Number.isFinite(countOf(amount))) return null;
  const time = set.timeMs[row] + set.timeNs[row] / 1e6;
  return { time, start: set.startMs[row] + set.startNs[row] / 1e6, amount };
}

/** The points of a batch by series, in the order of time; `refused` is told of those that cannot be worked with. */
export function rowsBySeries(batch: Batch, refused: () => void): Map<KnownSeries, Row[]> {
  const { all, sets } = batch.inColumns();
  const rows = new Map<KnownSeries, Row[]>();
  for (const { set } of sets) {
    for (let row = 0; row < set.count; row++) {
      if (set.flags[row] & (FLAG.noRecordedValue | FLAG.absent)) continue;
      const found = rowOf(set, row);
      if (!found) {
        refused();
        continue;
      }
      const series = all[set.series[row]];
      const list = rows.get(series);
      if (list) list.push(found);
      else rows.set(series, [found]);
    }
  }
  for (const list of rows.values()) list.sort((a, b) => a.time - b.time);
  return rows;
}

export class Increases {
  private readonly bases: Map<string, Base>;
  /** Points of series past the limit. */
  refused = 0;

  /**
   * @param began Unix ms
   * @param repeats whether two deltas of one time are the same one, sent again
   */
  constructor(
    private readonly began: number,
    saved: readonly [string, Base][] = [],
    private readonly repeats = true,
  ) {
    this.bases = new Map(saved);
  }

  save(): [string, Base][] {
    return [...this.bases];
  }

  /** Whether a series is a running total of which nothing is known yet, so that its next point would be only a base. */
  lacks({ metric, key }: KnownSeries): boolean {
    const { identity } = metric;
    if (!isAdded(identity) || identity.temporality !== "cumulative") return false;
    return !this.bases.has(`${metricKey(identity)}\u0001${key}`);
  }

  /** Tells what a series added up to before, as it was told elsewhere. */
  seed(text: string, base: Base): void {
    if (!this.bases.has(text) && this.bases.size < MAX_REMEMBERED) this.bases.set(text, base);
  }

  /** Takes in which series of a batch stood at nothing, as a base where nothing is known of them. */
  seedAbsent(batch: Batch): void {
    const { all, sets } = batch.inColumns();
    for (const { set } of sets)
      for (let row = 0; row < set.count; row++) {
        const base = set.flags[row] & FLAG.absent ? rowOf(set, row) : null;
        if (base) this.seed(seriesText(all[set.series[row]]), base);
      }
  }

  /** Forgets what was last heard of before a moment. */
  forget(before: number): void {
    for (const [key, { time }] of this.bases) if (time < before) this.bases.delete(key);
  }

  /** @returns null where the point is a repeat, overtaken, or refused */
  of(key: string, { temporality, monotonic }: MetricIdentity, row: Row): Increase | null {
    const { time, start, amount } = row;
    const delta = temporality === "delta";
    if (delta && !this.repeats) return { added: amount, since: start };
    const base = this.bases.get(key);
    if (!base && this.bases.size >= MAX_REMEMBERED) {
      this.refused++;
      return null;
    }
    if (delta) {
      // A repeat: what it says was counted.
      if (base?.times?.includes(time)) return null;
      const latest = Math.max(time, base?.time ?? 0);
      const times = [...(base?.times ?? []).filter((one) => one > latest - KNOWN), time];
      this.bases.set(key, { start: 0, time: latest, amount: NOTHING, times });
      return { added: amount, since: start > 0 ? start : (base?.time ?? time) };
    }
    // Nearly always one process writes a series, and goes on.
    if (base && !base.others && (start <= 0 || start === base.start)) {
      if (time <= base.time) return null;
      this.bases.set(key, { start: base.start, time, amount });
      return this.ofSame(row, base, monotonic);
    }
    return this.ofAny(key, row, base, monotonic);
  }

  /** What a total adds where its series was told of by several starts, or by none yet. */
  private ofAny(key: string, row: Row, base: Base | undefined, monotonic: boolean): Increase | null {
    const { time, start, amount } = row;
    const known = base ? totalsOf(base) : [];
    // Without a start it is of the process that was heard last.
    const own = start > 0 ? known.find((one) => one.start === start) : known[0];
    // A repeat, or a total that was overtaken: what it says is in the later one already.
    if (known.length > 0 && time <= (own ?? known[0]).time) return null;
    const others = known
      .filter((one) => one !== own && one.time > time - SILENT)
      .sort((a, b) => b.time - a.time)
      .slice(0, MAX_WRITERS - 1);
    this.bases.set(key, { start: own?.start ?? start, time, amount, ...(others.length > 0 && { others }) });
    return own ? this.ofSame(row, own, monotonic) : this.ofFirst(row, known[0]?.time ?? Number.NEGATIVE_INFINITY);
  }

  /** A first total of its start: all of it is new where it began after the step did, or after the totals before it. */
  private ofFirst({ start, amount, time }: Row, before: number): Increase {
    if (start <= 0) return { added: null, since: time };
    const whole = start >= this.began || (Number.isFinite(before) && start >= before);
    return { added: whole ? amount : null, since: Math.max(start, before) };
  }

  private ofSame({ amount }: Row, base: TimedAmount, monotonic: boolean): Increase {
    const difference = minus(amount, base.amount);
    if (difference) return { added: difference, since: base.time };
    // Something fell: it began anew, without saying so.
    return { added: monotonic ? amount : null, since: base.time };
  }
}
