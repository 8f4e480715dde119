import { Batch } from "../otlp/batch/batch";
import type { Dictionary, KnownSeries } from "../otlp/dictionary";
import { HOUR } from "../window/lengths";
import { type Amount, addAmount, plus, sameShape, type TimedAmount } from "./amount";
import { type Base, Increases, isAdded, MAX_REMEMBERED, type Row, rowsBySeries, seriesText } from "./increases";
import type { LevelHow } from "./parts";
import { firstClosed, type Waits } from "./waits";

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
const FORGET = HOUR;

export interface WindowedSettings {
  /** Length of a window, ms. */
  every: number;
  /** How the values of one member in one window become one. */
  within: LevelHow;
  /** How the members' values become one; counters and histograms know only sum, mean, min and max of what is added. */
  across: LevelHow | "distinct";
  /** The series that a series goes to. */
  target: (series: KnownSeries) => KnownSeries;
  /** Whether two deltas of one time are the same one, sent again; they are where this is left out. */
  repeats?: boolean;
  /** What is counted where distinct values are asked for. */
  distinctOf?: (series: KnownSeries) => string;
}

/** What a step remembers, as plain data. Times in Unix ms. */
export interface WindowedState {
  /** When the step began. */
  began: number;
  /** Up to when windows are closed. */
  upTo: number;
  bases: [string, Base][];
  totals: [string, TimedAmount][];
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

export class WindowedAggregation implements Waits<WindowedState> {
  readonly increases: Increases;
  private readonly totals = new Map<string, TimedAmount>();
  private readonly members = new Map<KnownSeries, Member>();
  private readonly began: number;
  private upTo: number;
  /** Levels that came after their window was closed. */
  late = 0;
  /** What meets always gives something. */
  readonly problem = null;
  /** Points that cannot be brought together. */
  private unfit = 0;

  /**
   * @param since when the step begins, Unix ms; a saved state says so itself
   * @param closed up to when a step that it takes the place of closed its windows, Unix ms
   */
  constructor(
    private readonly settings: WindowedSettings,
    since: number,
    saved?: WindowedState,
    closed = Number.NEGATIVE_INFINITY,
  ) {
    this.began = saved?.began ?? since;
    this.upTo = saved?.upTo ?? firstClosed(since, settings.every, closed);
    this.increases = new Increases(this.began, saved?.bases, settings.repeats);
    for (const [key, total] of saved?.totals ?? []) this.totals.set(key, total);
  }

  save(): WindowedState {
    const { began, upTo, increases, totals } = this;
    return { began, upTo, bases: increases.save(), totals: [...totals] };
  }

  /** Points that cannot be brought together: summaries, and those of members past the limit. */
  get refused(): number {
    return this.unfit + this.increases.refused;
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
    this.increases.seedAbsent(batch);
    const sources = rowsBySeries(batch, () => {
      this.unfit++;
    });
    for (const [series, rows] of sources) {
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
      if (this.members.size > MAX_REMEMBERED) this.members.clear();
      const key = seriesText(series);
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
    for (const row of rows) {
      const increase = this.increases.of(member.key, series.metric.identity, row);
      if (!increase) continue;
      const { added } = increase;
      const cell = this.cellOf(member, this.endOf(row.time, upTo), cells);
      cell.distinct.add(member.distinct);
      if (!added) continue;
      if (this.settings.across === "sum" || added.kind !== "number") {
        const sum = cell.added ? plus(cell.added, added) : added;
        if (sum) cell.added = sum;
        else this.unfit++;
      } else {
        const before = cell.members.get(member.key);
        cell.members.set(member.key, before ? plus(before, added)! : added);
      }
    }
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
      addAmount(out, counted(target, dictionary), {
        start: 0,
        time: end,
        amount: {
          kind: "number",
          value: cell.distinct.size,
          integer: true,
        },
      });
      return;
    }
    const values = [...cell.members.values()].flatMap((one) => (one.kind === "number" ? [one.value] : []));
    if (!isAdded(target.metric.identity)) {
      addAmount(out, target, {
        start: 0,
        time: end,
        amount: { kind: "number", value: oneOf(values, across), integer: false },
      });
      return;
    }
    const added: Amount | null =
      values.length > 0 ? { kind: "number", value: oneOf(values, across), integer: false } : cell.added;
    if (target.metric.identity.temporality === "delta") {
      if (added) addAmount(out, target, { start: end - every, time: end, amount: added });
      return;
    }
    const key = seriesText(target);
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
    addAmount(out, target, { start: total.start, time: end, amount: total.amount });
  }

  private forget(): void {
    const old = this.upTo - FORGET;
    this.increases.forget(old);
    for (const [key, { time }] of this.totals) if (time < old) this.totals.delete(key);
  }
}

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
