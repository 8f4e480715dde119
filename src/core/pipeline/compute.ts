import { labelsOf } from "../metric/labels";
import type { Attributes, MetricIdentity, PointSet } from "../metric/model";
import { emptyPointSet } from "../metric/model";
import { Batch } from "../otlp/batch/batch";
import type { Dictionary, KnownSeries } from "../otlp/dictionary";
import { parseReading } from "../reading/language/parse";
import { canonicalAttribute, measuresOf, type ReadingTree } from "../reading/language/tree";
import { type HeldSeries, readHeld } from "../reading/offline";
import { comparable, lenientUnit } from "../unit/unit";
import { HOUR } from "../window/lengths";
import { type Amount, columnsOf, plus } from "./amount";
import { type Base, Increases, isAdded, type Row, rowsBySeries, seriesText } from "./increases";
import { firstClosed, type Waits } from "./waits";

/**
 * Working a figure out from metrics: the step's reading, put to what each window holds. Counters and histograms go in
 * as what they add in the window, so that no total is needed from before it; a late one adds to the oldest window that
 * is open. Of gauges the last value before the window goes in as well, as it still held. Each group of the reading
 * becomes a series of a gauge at the window's end; its attributes are those of the group, and what all the senders have
 * in common to be known by.
 */

/** What is worked out, and how it is told. */
export interface ComputeStep {
  reading: string;
  /** The metric's name. */
  to: string;
  /** "" for the one that the formula gives. */
  unit: string;
  /** Significant digits; null keeps all. */
  digits: number | null;
  /** Length of a window, s. */
  every: number;
}

/** What the step remembers, as plain data. Times in Unix ms. */
export interface ComputeState {
  began: number;
  upTo: number;
  bases: [string, Base][];
  levels: [string, { time: number; value: number }][];
}

/** How long what is remembered is kept without being heard, ms. */
const FORGET = HOUR;
const OF_SENDERS = ["service.name", "service.version", "deployment.environment.name"];

/** Metrics that a compute step reads. */
export function readMetrics({ reading }: Pick<ComputeStep, "reading">): Set<string> {
  return new Set(measuresOf(parseReading(reading).expression).map(({ metric }) => metric));
}

function setOf(amount: Amount, start: number, time: number): PointSet {
  const { layout, values, flags } = columnsOf(amount);
  const set = emptyPointSet(layout, 1);
  set.timeMs[0] = time;
  set.startMs[0] = start;
  set.flags[0] = flags;
  values.forEach((value, c) => {
    set.columns[c][0] = value;
  });
  return set;
}

export class Computing implements Waits<ComputeState> {
  private readonly tree: ReadingTree;
  private readonly every: number;
  private readonly began: number;
  readonly increases: Increases;
  private readonly levels: Map<string, { time: number; value: number }>;
  private upTo: number;
  private unfit = 0;
  late = 0;
  /** Why the last window gave nothing; null where it did. */
  problem: string | null = null;

  constructor(
    private readonly step: ComputeStep,
    since: number,
    saved?: ComputeState,
    closed = Number.NEGATIVE_INFINITY,
  ) {
    this.tree = parseReading(step.reading);
    this.every = step.every * 1000;
    this.began = saved?.began ?? since;
    this.upTo = saved?.upTo ?? firstClosed(since, this.every, closed);
    this.increases = new Increases(this.began, saved?.bases);
    this.levels = new Map(saved?.levels ?? []);
  }

  get closedUpTo(): number {
    return this.upTo;
  }

  get refused(): number {
    return this.unfit + this.increases.refused;
  }

  boundAt(moment: number): number {
    return Math.floor(moment / this.every) * this.every;
  }

  boundAfter(moment: number): number {
    return this.boundAt(moment) + this.every;
  }

  targetOf(): null {
    return null;
  }

  save(): ComputeState {
    return { began: this.began, upTo: this.upTo, bases: this.increases.save(), levels: [...this.levels] };
  }

  advance(batch: Batch, upTo: number, dictionary: Dictionary): Batch {
    if (upTo <= this.upTo) throw new RangeError(`windows are closed up to ${this.upTo} already, not only to ${upTo}`);
    this.increases.seedAbsent(batch);
    const rows = rowsBySeries(batch, () => {
      this.unfit++;
    });
    const windows = new Map<number, Map<KnownSeries, Row[]>>();
    for (const [series, list] of rows) for (const row of list) this.place(series, row, upTo, windows);
    const out = new Batch();
    for (const end of [...windows.keys()].sort((a, b) => a - b)) this.close(end, windows.get(end)!, out, dictionary);
    this.upTo = upTo;
    const old = upTo - FORGET;
    this.increases.forget(old);
    for (const [key, { time }] of this.levels) if (time < old) this.levels.delete(key);
    return out;
  }

  /** Puts a point into its window, counters as what they add. */
  private place(series: KnownSeries, row: Row, upTo: number, windows: Map<number, Map<KnownSeries, Row[]>>): void {
    const { every } = this;
    const end = Math.min(Math.max(Math.ceil(row.time / every) * every, this.upTo + every), upTo);
    let amount: Amount | null = row.amount;
    if (isAdded(series.metric.identity))
      amount = this.increases.of(seriesText(series), series.metric.identity, row)?.added ?? null;
    else if (row.time <= this.upTo) {
      this.late++;
      return;
    }
    if (!amount) return;
    const window = windows.get(end) ?? new Map<KnownSeries, Row[]>();
    windows.set(end, window);
    const list = window.get(series) ?? [];
    window.set(series, list);
    list.push({ ...row, amount });
  }

  private close(end: number, window: ReadonlyMap<KnownSeries, Row[]>, out: Batch, dictionary: Dictionary): void {
    const { step, every } = this;
    const from = end - every;
    const held = [...window].map(([series, points]) => this.held(series, points, from));
    try {
      const asked = { from, to: end, every, zone: "UTC", picks: {} };
      const result = readHeld(this.tree, held, asked, from);
      const unit = lenientUnit(result.unit);
      const wanted = step.unit === "" ? unit : lenientUnit(step.unit);
      if (!comparable(unit, wanted)) throw new Error(`${result.unit || "no unit"} cannot be said in ${step.unit}`);
      const common = inCommon([...window.keys()]);
      const metric = dictionary.metric(
        {
          name: step.to,
          kind: "gauge",
          unit: step.unit === "" ? result.unit : step.unit,
          temporality: "none",
          monotonic: false,
        },
        step.reading,
      );
      for (const { labels, total } of result.series) {
        if (total === null) continue;
        const value = (total * unit.scale) / wanted.scale;
        const series = dictionary.series(metric, identityOf(labels, common));
        const head = { timeMs: end, timeNs: 0, startMs: 0, startNs: 0, flags: 0 };
        out.number(series, head, step.digits === null ? value : Number(value.toPrecision(step.digits)));
      }
      this.problem = null;
    } catch (error) {
      this.problem = (error as Error).message;
      this.unfit += [...window.values()].reduce((sum, { length }) => sum + length, 0);
    }
  }

  /** A series as a window holds it. */
  private held(series: KnownSeries, points: Row[], from: number): HeldSeries {
    const { metric, identity } = series;
    const attributes = labelsOf(identity);
    if (isAdded(metric.identity)) {
      const asDelta: MetricIdentity = { ...metric.identity, temporality: "delta" };
      return { metric: asDelta, attributes, parts: inTurn(added(points), from, from + this.every) };
    }
    const key = seriesText(series);
    const before = this.levels.get(key);
    const last = points[points.length - 1];
    if (last.amount.kind === "number") this.levels.set(key, { time: last.time, value: last.amount.value });
    const known: Row[] = before
      ? [{ time: before.time, start: 0, amount: { kind: "number", value: before.value, integer: false } }, ...points]
      : points;
    return { metric: metric.identity, attributes, parts: known.map(({ time, amount }) => setOf(amount, 0, time)) };
  }
}

/** What points add, together; several amounts only where their shapes cannot be brought together. */
function added(points: readonly Row[]): Amount[] {
  const all: Amount[] = [];
  for (const { amount } of points) {
    const sum = all.length > 0 ? plus(all[all.length - 1], amount) : null;
    if (sum) all[all.length - 1] = sum;
    else all.push(amount);
  }
  return all;
}

/** Amounts one after the other, each over an equal part of a window. */
function inTurn(all: readonly Amount[], from: number, to: number): PointSet[] {
  const bound = (i: number) => from + ((to - from) * i) / all.length;
  return all.map((amount, i) => setOf(amount, bound(i), bound(i + 1)));
}

/** What all of some series have in common of that by which senders are known. */
function inCommon(all: readonly KnownSeries[]): Attributes {
  const found: Attributes = {};
  for (const name of OF_SENDERS) {
    const value = all[0]?.identity.resource[name];
    if (value !== undefined && all.every(({ identity }) => identity.resource[name] === value)) found[name] = value;
  }
  return found;
}

function identityOf(labels: Readonly<Record<string, string | null>>, common: Attributes) {
  const resource: Attributes = { ...common };
  const attributes: Attributes = {};
  for (const [label, value] of Object.entries(labels)) {
    if (value === null) continue;
    const name = canonicalAttribute(label);
    if (OF_SENDERS.includes(name)) resource[name] = value;
    else attributes[name] = value;
  }
  return { resource, scope: { name: "", version: "" }, attributes };
}
