import { columnCount } from "../metric/model";
import { attributesText, valueText } from "../metric/text";
import type { Batch } from "../otlp/batch";
import { Dictionary, type KnownSeries } from "../otlp/dictionary";
import { unpackBatch } from "./block";
import type { StepConfig } from "./config";
import { Lane } from "./lane";
import { type Origin, originsOf } from "./origins";

/** What a lane does to arrivals of some minutes: tried out on them, in the very code that runs it. */

/** Series, points, and about how many bytes of OTLP they take. */
export interface Amounts {
  series: number;
  points: number;
  bytes: number;
}

/** One metric, by name, before and after. */
export interface MetricEffect {
  name: string;
  before: Amounts;
  after: Amounts;
  /** Attributes that some of its series had, and have. */
  had: string[];
  has: string[];
}

export interface StepEffect {
  id: string;
  in: { series: number; points: number };
  out: { series: number; points: number };
}

/** Where a series goes, step by step. */
export interface Trace {
  metric: string;
  attributes: Record<string, string>;
  /** What it is called at the end; none where it goes nowhere. */
  ends: { metric: string; attributes: Record<string, string>; unit: string; met: boolean }[];
}

export interface LaneEffect {
  arrivals: Amounts;
  stored: Amounts;
  steps: StepEffect[];
  metrics: MetricEffect[];
  /** Some series of each metric. */
  traces: Trace[];
}

export interface Effect {
  /** The span of the arrivals, ms. */
  span: number;
  live: LaneEffect;
  draft: LaneEffect;
  origins: Origin[];
  /** How long the draft took, ms. */
  took: number;
}

const MOST_TRACES = 12;

/** About what a point of a series takes in OTLP: its attributes, its times, its numbers. */
function sizeOf({ identity }: KnownSeries, columns: number): number {
  let size = 28 + columns * 9;
  for (const [key, value] of Object.entries(identity.attributes)) size += 8 + key.length + valueText(value).length;
  return size;
}

interface Tally {
  series: Set<string>;
  points: number;
  bytes: number;
  attributes: Set<string>;
}

/** Adds up what batches hold, by metric. */
class Tallies {
  readonly metrics = new Map<string, Tally>();

  add(batch: Batch): void {
    const all: KnownSeries[] = [];
    const ids = new Map<KnownSeries, number>();
    const sizes: number[] = [];
    const idOf = (series: KnownSeries) => {
      let id = ids.get(series);
      if (id === undefined) {
        id = all.push(series) - 1;
        ids.set(series, id);
      }
      return id;
    };
    for (const { metric, set } of batch.numbered(idOf)) {
      const width = columnCount(set.layout);
      let tally = this.metrics.get(metric.identity.name);
      if (!tally) {
        tally = { series: new Set(), points: 0, bytes: 0, attributes: new Set() };
        this.metrics.set(metric.identity.name, tally);
      }
      tally.points += set.count;
      for (let row = 0; row < set.count; row++) {
        const id = set.series[row];
        if (sizes[id] === undefined) {
          const series = all[id];
          sizes[id] = sizeOf(series, 0);
          tally.series.add(`${metric.identity.kind} ${metric.identity.unit} ${series.key}`);
          for (const name of Object.keys(series.identity.attributes)) tally.attributes.add(name);
          for (const name of Object.keys(series.identity.resource)) tally.attributes.add(name);
        }
        tally.bytes += sizes[id] + width * 9;
      }
    }
  }

  amounts(name?: string): Amounts {
    const some = name === undefined ? [...this.metrics.values()] : [this.metrics.get(name)].filter((one) => !!one);
    return some.reduce(
      (sum, { series, points, bytes }) => ({
        series: sum.series + series.size,
        points: sum.points + points,
        bytes: sum.bytes + bytes,
      }),
      { series: 0, points: 0, bytes: 0 },
    );
  }

  attributes(name: string): string[] {
    return [...(this.metrics.get(name)?.attributes ?? [])].sort();
  }
}

/** Runs arrivals through steps and closes every window. */
function runLane(
  blocks: readonly Uint8Array[],
  steps: readonly StepConfig[],
  origins?: (batch: Batch) => void,
): LaneEffect {
  const dictionary = new Dictionary();
  const before = new Tallies();
  const after = new Tallies();
  const batches = blocks.map((block) => unpackBatch(block, dictionary));
  let from = Number.POSITIVE_INFINITY;
  let to = 0;
  for (const batch of batches) {
    before.add(batch);
    origins?.(batch);
    batch.eachTime((_, time) => {
      if (time < from) from = time;
      if (time > to) to = time;
    });
  }
  const lane = new Lane(steps, dictionary, Number.isFinite(from) ? from : 0);
  const arrived = new Set<KnownSeries>();
  const some = new Map<string, KnownSeries[]>();
  const held = new Map<string, Batch>();
  const hold = (step: string, batch: Batch) => {
    const known = held.get(step);
    if (known) known.append(batch);
    else held.set(step, batch);
  };
  for (const batch of batches) {
    for (const series of batch.series()) {
      arrived.add(series);
      const list = some.get(series.metric.identity.name) ?? [];
      if (list.length < MOST_TRACES && !list.includes(series)) list.push(series);
      some.set(series.metric.identity.name, list);
    }
    for (const { step, batch: more } of lane.admit(batch)) hold(step, more);
    after.add(batch);
  }
  for (const step of lane.waitingSteps) {
    const due = held.get(step);
    if (!due) continue;
    let last = to;
    due.eachTime((_, time) => {
      if (time > last) last = time;
    });
    const { out, waiting } = lane.advance(
      step,
      due,
      Math.max(lane.nextBound(step, last), lane.nextBound(step, lane.closedUpTo(step))),
    );
    after.add(out);
    for (const { step: later, batch } of waiting) hold(later, batch);
  }
  const names = [...new Set([...before.metrics.keys(), ...after.metrics.keys()])].sort();
  const counts = lane.counts();
  const series = lane.seriesCounts(arrived);
  return {
    arrivals: before.amounts(),
    stored: after.amounts(),
    steps: Object.entries(counts).map(([id, count]) => ({
      id,
      in: { points: count.in, series: series[id].in },
      out: { points: count.out, series: series[id].out },
    })),
    metrics: names.map((name) => ({
      name,
      before: before.amounts(name),
      after: after.amounts(name),
      had: before.attributes(name),
      has: after.attributes(name),
    })),
    traces: [...some.values()].flat().map((one) => ({
      metric: one.metric.identity.name,
      attributes: attributesText(one.identity.attributes),
      ends: lane.trace(one).map(({ series: end, met }) => ({
        metric: end.metric.identity.name,
        attributes: attributesText(end.identity.attributes),
        unit: end.metric.identity.unit,
        met,
      })),
    })),
  };
}

/** Compares a draft with what is live, on arrivals. @param clock milliseconds, to tell how long it took */
export function effectOf(
  blocks: readonly Uint8Array[],
  live: readonly StepConfig[],
  draft: readonly StepConfig[],
  clock: () => number = () => 0,
): Effect {
  let from = Number.POSITIVE_INFINITY;
  let to = Number.NEGATIVE_INFINITY;
  const origins = originsOf();
  const began = clock();
  const drafted = runLane(blocks, draft, (batch) => {
    origins.add(batch);
    batch.eachTime((_, time) => {
      if (time < from) from = time;
      if (time > to) to = time;
    });
  });
  const took = clock() - began;
  const span = to > from ? to - from : 0;
  return { span, live: runLane(blocks, live), draft: drafted, origins: origins.found(), took };
}
