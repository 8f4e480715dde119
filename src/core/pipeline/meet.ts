import { FLAG, isLevel, type MetricIdentity } from "../metric/model";
import { Batch } from "../otlp/batch";
import { type Dictionary, type KnownMetric, type KnownSeries, metricKey } from "../otlp/dictionary";
import { type Amount, amountAt, columnsOf, countOf, minus, plus, sameShape } from "./amount";
import type { LevelHow } from "./config";

/**
 * Where series meet: the points of several become points of one, in windows of time. Slowing down is the same with one
 * series alone.
 *
 * **Windows.** A window of length `every` holds the times (a, b]; it gives one point, at b. It is closed once `upTo`
 * reaches b; whoever calls decides when that is, and how long it waits for stragglers. Within a window the order in
 * which points arrive does not matter.
 *
 * **Counters and histograms** are added up by what each member adds from point to point (OpenTelemetry metrics data
 * model, "Resets and Gaps"), so members may start anew, come and go; the result keeps the temporality of what came in.
 * A member's first point adds all of its value where its start lies after the step began, else it is only a base. What
 * a late point adds goes into the oldest window that is still open; nothing is lost.
 *
 * **Gauges** and up-down counters are levels: of each member the value in the window, then one value of all members. A
 * late level is left out and counted.
 *
 * **State** is a base per member and a total per result. Members not heard for {@link FORGET} are forgotten.
 */

/** How long a member is remembered that is not heard, ms. */
const FORGET = 3600_000;
/** For how long a delta is known by its time, ms: senders try again sooner. */
const KNOWN = 60_000;
/** Members of one step. Points of others are refused. */
const MOST_MEMBERS = 200_000;

export interface MeetSettings {
  /** Length of a window, ms. */
  every: number;
  /** How the values of one member in one window become one. */
  within: LevelHow;
  /** How the members' values become one; counters and histograms know only sum, mean, min and max of what is added. */
  across: LevelHow | "distinct";
  /** The series that a series goes to. */
  target: (series: KnownSeries) => KnownSeries;
  /** What is counted where distinct values are asked for. */
  distinctOf?: (series: KnownSeries) => string;
}

interface Base {
  start: number;
  time: number;
  /** Of deltas nothing. */
  amount: Amount;
  /** Times of deltas of the last minute: one that was sent again counts once. */
  times?: number[];
}

interface Total {
  start: number;
  time: number;
  amount: Amount;
}

/** What a step remembers, as plain data. Times in Unix ms. */
export interface MeetState {
  /** When the step began. */
  began: number;
  /** Up to when windows are closed. */
  upTo: number;
  bases: [string, Base][];
  totals: [string, Total][];
}

interface Row {
  time: number;
  start: number;
  amount: Amount;
}

/** A series that goes into a step. */
interface Member {
  key: string;
  target: KnownSeries;
  distinct: string;
}

type Cells = Map<KnownSeries, Map<number, Cell>>;

/** What members gave to one window of one result. */
interface Cell {
  target: KnownSeries;
  end: number;
  /** The sum of what was added. */
  added: Amount | null;
  /** Per member, where one value of all members is wanted that is not their sum. */
  members: Map<string, Amount>;
  distinct: Set<string>;
}

function keyOf({ metric, key }: KnownSeries): string {
  return `${metricKey(metric.identity)}\u0001${key}`;
}

/** Levels, and what else can only be replaced and not added up. */
function isAdded(identity: MetricIdentity): boolean {
  return identity.kind !== "summary" && !isLevel(identity);
}

export class Meeting {
  private readonly bases = new Map<string, Base>();
  private readonly totals = new Map<string, Total>();
  private readonly members = new Map<KnownSeries, Member>();
  private readonly began: number;
  private upTo: number;
  /** Levels that came after their window was closed. */
  late = 0;
  /** Points that cannot be brought together: summaries, and those of members past the limit. */
  refused = 0;

  /** @param since when the step begins, Unix ms; a saved state says so itself */
  constructor(
    private readonly settings: MeetSettings,
    since: number,
    saved?: MeetState,
  ) {
    this.began = saved?.began ?? since;
    // The window that the beginning lies in is open.
    this.upTo = saved?.upTo ?? (Math.ceil(since / settings.every) - 1) * settings.every;
    for (const [key, base] of saved?.bases ?? []) this.bases.set(key, base);
    for (const [key, total] of saved?.totals ?? []) this.totals.set(key, total);
  }

  save(): MeetState {
    const { began, upTo, bases, totals } = this;
    return { began, upTo, bases: [...bases], totals: [...totals] };
  }

  /** The series in which a member's points come out. */
  targetOf(series: KnownSeries, dictionary: Dictionary): KnownSeries {
    const target = this.settings.target(series);
    return this.settings.across === "distinct" ? counted(target, dictionary) : target;
  }

  /** Up to when windows are closed. */
  get closedUpTo(): number {
    return this.upTo;
  }

  /** The last bound of a window at or before a moment. */
  boundAt(moment: number): number {
    return Math.floor(moment / this.settings.every) * this.settings.every;
  }

  /** The first bound of a window after a moment. */
  boundAfter(moment: number): number {
    return this.boundAt(moment) + this.settings.every;
  }

  /**
   * Closes all windows up to a bound.
   *
   * @param batch every point that is due: none is later than `upTo`
   * @param upTo the bound of a window that is still open: each window gives its points once
   * @returns the points of the windows
   */
  advance(batch: Batch, upTo: number, dictionary: Dictionary): Batch {
    if (upTo <= this.upTo) throw new RangeError(`windows are closed up to ${this.upTo} already, not only to ${upTo}`);
    const cells: Cells = new Map();
    const sources = this.bySource(batch);
    for (const [series, rows] of sources) {
      rows.sort((a, b) => a.time - b.time);
      if (isAdded(series.metric.identity)) this.addUp(series, rows, upTo, cells);
      else this.take(series, rows, upTo, cells);
    }
    const out = new Batch();
    const ordered = [...cells.values()].flatMap((own) => [...own.values()]).sort((a, b) => a.end - b.end);
    for (const cell of ordered) this.write(cell, out, dictionary);
    for (const { series, ...exemplar } of batch.exemplars)
      if (this.settings.across !== "distinct")
        out.exemplars.push({ ...exemplar, series: this.memberOf(series).target });
    this.upTo = upTo;
    this.forget();
    return out;
  }

  private bySource(batch: Batch): Map<KnownSeries, Row[]> {
    const all: KnownSeries[] = [];
    const ids = new Map<KnownSeries, number>();
    const idOf = (series: KnownSeries) => {
      let id = ids.get(series);
      if (id === undefined) {
        id = all.push(series) - 1;
        ids.set(series, id);
      }
      return id;
    };
    const rows = new Map<KnownSeries, Row[]>();
    for (const { set } of batch.numbered(idOf)) {
      for (let row = 0; row < set.count; row++) {
        if (set.flags[row] & FLAG.noRecordedValue) continue;
        const amount = amountAt(set, row);
        if (!amount || !Number.isFinite(countOf(amount))) {
          this.refused++;
          continue;
        }
        const series = all[set.series[row]];
        const list = rows.get(series) ?? [];
        const time = set.timeMs[row] + set.timeNs[row] / 1e6;
        list.push({ time, start: set.startMs[row] + set.startNs[row] / 1e6, amount });
        rows.set(series, list);
      }
    }
    return rows;
  }

  /** The window of a time: late ones fall into the oldest that is open. */
  private endOf(time: number, upTo: number): number {
    const { every } = this.settings;
    const end = Math.ceil(time / every) * every;
    return Math.min(Math.max(end, this.upTo + every), upTo);
  }

  /** What a series is to this step, worked out once. */
  private memberOf(series: KnownSeries): Member {
    let member = this.members.get(series);
    if (!member) {
      if (this.members.size > MOST_MEMBERS) this.members.clear();
      const key = keyOf(series);
      const target = this.settings.target(series);
      member = { key, target, distinct: this.settings.distinctOf?.(series) ?? key };
      this.members.set(series, member);
    }
    return member;
  }

  private cellOf({ target }: Member, end: number, cells: Cells): Cell {
    let own = cells.get(target);
    if (!own) {
      own = new Map();
      cells.set(target, own);
    }
    let cell = own.get(end);
    if (!cell) {
      cell = { target, end, added: null, members: new Map(), distinct: new Set() };
      own.set(end, cell);
    }
    return cell;
  }

  private addUp(series: KnownSeries, rows: readonly Row[], upTo: number, cells: Cells): void {
    const member = this.memberOf(series);
    const { key } = member;
    const { temporality, monotonic } = series.metric.identity;
    for (const row of rows) {
      const base = this.bases.get(key);
      if (!base && this.bases.size >= MOST_MEMBERS) {
        this.refused++;
        continue;
      }
      const { start, time, amount } = row;
      const delta = temporality === "delta";
      // A repeat, or a total that was overtaken: what it says is in the later one already.
      if (base && (delta ? base.times?.includes(time) : time <= base.time)) continue;
      const added = this.addedBy(row, base, delta, monotonic);
      if (delta) {
        const latest = Math.max(time, base?.time ?? 0);
        const times = [...(base?.times ?? []).filter((one) => one > latest - KNOWN), time];
        this.bases.set(key, { start: 0, time: latest, amount: NOTHING, times });
      } else this.bases.set(key, { start, time, amount });
      const cell = this.cellOf(member, this.endOf(time, upTo), cells);
      cell.distinct.add(member.distinct);
      if (!added) continue;
      if (this.settings.across === "sum" || added.kind !== "number") {
        const sum = cell.added ? plus(cell.added, added) : added;
        if (sum) cell.added = sum;
        else this.refused++;
      } else {
        const before = cell.members.get(key);
        cell.members.set(key, before ? plus(before, added)! : added);
      }
    }
  }

  /** What a point adds; null where it is only a base. */
  private addedBy({ start, amount }: Row, base: Base | undefined, delta: boolean, monotonic: boolean): Amount | null {
    if (delta) return amount;
    if (!base) return start > 0 && start >= this.began ? amount : null;
    if (start !== base.start && start > 0) return amount;
    const difference = minus(amount, base.amount);
    if (difference) return difference;
    // Something fell: it began anew, without saying so.
    return monotonic ? amount : null;
  }

  private take(series: KnownSeries, rows: readonly Row[], upTo: number, cells: Cells): void {
    const byEnd = new Map<number, number[]>();
    for (const { time, amount } of rows) {
      if (amount.kind !== "number") continue;
      if (time <= this.upTo) this.late++;
      else {
        const end = this.endOf(time, upTo);
        const values = byEnd.get(end) ?? [];
        values.push(amount.value);
        byEnd.set(end, values);
      }
    }
    for (const [end, values] of byEnd) {
      const member = this.memberOf(series);
      const cell = this.cellOf(member, end, cells);
      cell.distinct.add(member.distinct);
      const value = oneOf(values, this.settings.within);
      cell.members.set(member.key, { kind: "number", value, integer: false });
    }
  }

  private write(cell: Cell, out: Batch, dictionary: Dictionary): void {
    const { across, every } = this.settings;
    const { target, end } = cell;
    if (across === "distinct") {
      append(out, counted(target, dictionary), end, 0, {
        kind: "number",
        value: cell.distinct.size,
        integer: true,
      });
      return;
    }
    const values = [...cell.members.values()].flatMap((one) => (one.kind === "number" ? [one.value] : []));
    if (!isAdded(target.metric.identity)) {
      append(out, target, end, 0, { kind: "number", value: oneOf(values, across), integer: false });
      return;
    }
    const added: Amount | null =
      values.length > 0 ? { kind: "number", value: oneOf(values, across), integer: false } : cell.added;
    if (target.metric.identity.temporality === "delta") {
      if (added) append(out, target, end, end - every, added);
      return;
    }
    const key = keyOf(target);
    const before = this.totals.get(key);
    const sum = added ? (before ? plus(before.amount, added) : added) : (before?.amount ?? null);
    if (!sum) return;
    // Where buckets had to change, the total begins anew: an honest reset instead of buckets that jump.
    const anew = !before || !sameShape(before.amount, sum);
    const total =
      anew && added
        ? { start: Math.max(end - every, this.began), time: end, amount: bare(added) }
        : { start: before!.start, time: end, amount: bare(sum) };
    this.totals.set(key, total);
    append(out, target, end, total.start, total.amount);
  }

  private forget(): void {
    const old = this.upTo - FORGET;
    for (const [key, { time }] of this.bases) if (time < old) this.bases.delete(key);
    for (const [key, { time }] of this.totals) if (time < old) this.totals.delete(key);
  }
}

const NOTHING: Amount = { kind: "number", value: 0, integer: true };
const DISTINCT = { kind: "gauge", temporality: "none", monotonic: false, unit: "1" } as const;

/** The series that says how many different ones met in another. */
function counted({ metric, identity }: KnownSeries, dictionary: Dictionary): KnownSeries {
  const gauge = dictionary.metric({ ...metric.identity, ...DISTINCT }, "How many different ones there are");
  return dictionary.series(gauge, identity);
}

/** Without least and greatest, which a running total does not know by window. */
function bare(amount: Amount): Amount {
  return amount.kind === "number" ? amount : { ...amount, min: null, max: null };
}

/** One value for several, in their order. */
export function oneOf(values: readonly number[], how: LevelHow): number {
  switch (how) {
    case "sum":
      return values.reduce((sum, value) => sum + value, 0);
    case "mean":
      return values.reduce((sum, value) => sum + value, 0) / values.length;
    case "min":
      return values.reduce((least, value) => Math.min(least, value), Number.POSITIVE_INFINITY);
    case "max":
      return values.reduce((most, value) => Math.max(most, value), Number.NEGATIVE_INFINITY);
    case "last":
      return values[values.length - 1];
  }
}

function append(out: Batch, series: KnownSeries, end: number, start: number, amount: Amount): void {
  const { layout, values, flags } = columnsOf(amount);
  const metric: KnownMetric = series.metric;
  const timeMs = Math.floor(end);
  out.addPoint(metric, layout, series, { timeMs, timeNs: 0, startMs: Math.floor(start), startNs: 0, flags }, values);
}
