import { columnCount } from "../metric/model";
import { attributesText, valueText } from "../metric/text";
import type { Batch } from "../otlp/batch";
import { Dictionary, type KnownSeries } from "../otlp/dictionary";
import { batchOf, type OpenBlock, openBlock } from "./block";
import { Lane } from "./lane";
import type { StepConfig } from "./metricSteps";
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
    const { all, sets } = batch.inColumns();
    const sizes: number[] = [];
    for (const { metric, set } of sets) {
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

/** Arrivals to try drafts on: opened once, whatever the number of drafts. */
export class Arrivals {
  private readonly dictionary = new Dictionary();
  private readonly blocks: OpenBlock[];
  private readonly all = new Tallies();
  private readonly series = new Set<KnownSeries>();
  private readonly examples: KnownSeries[];
  private readonly from: number;
  private readonly to: number;
  private readonly origins: Origin[];
  private live: { key: string; effect: LaneEffect } | null = null;

  constructor(blocks: readonly Uint8Array[]) {
    this.blocks = blocks.map((block) => openBlock(block, this.dictionary));
    let from = Number.POSITIVE_INFINITY;
    let to = Number.NEGATIVE_INFINITY;
    for (const batch of this.batches()) {
      this.all.add(batch);
      for (const series of batch.series()) this.series.add(series);
      batch.eachTime((_, time) => {
        if (time < from) from = time;
        if (time > to) to = time;
      });
    }
    this.from = Number.isFinite(from) ? from : 0;
    this.to = Number.isFinite(to) ? to : 0;
    const byMetric = new Map<string, KnownSeries[]>();
    for (const series of this.series) {
      const list = byMetric.get(series.metric.identity.name) ?? [];
      if (list.length < MOST_TRACES) list.push(series);
      byMetric.set(series.metric.identity.name, list);
    }
    this.examples = [...byMetric.values()].flat();
    this.origins = originsOf(this.series);
  }

  private batches(): Batch[] {
    return this.blocks.map(batchOf);
  }

  /** Compares a draft with what is live. @param clock milliseconds, to tell how long it took */
  effectOf(live: readonly StepConfig[], draft: readonly StepConfig[], clock: () => number = () => 0): Effect {
    const began = clock();
    const drafted = this.run(draft);
    const took = clock() - began;
    const key = JSON.stringify(live);
    if (this.live?.key !== key) this.live = { key, effect: this.run(live) };
    return { span: this.to - this.from, live: this.live.effect, draft: drafted, origins: this.origins, took };
  }

  /** Runs the arrivals through steps and closes every window. */
  private run(steps: readonly StepConfig[]): LaneEffect {
    const lane = new Lane(steps, this.dictionary, this.from);
    const after = new Tallies();
    const held = new Map<string, Batch>();
    const hold = (step: string, batch: Batch) => {
      const known = held.get(step);
      if (known) known.append(batch);
      else held.set(step, batch);
    };
    for (const batch of this.batches()) {
      for (const { step, batch: more } of lane.admit(batch)) hold(step, more);
      after.add(batch);
    }
    for (const step of lane.waitingSteps) {
      const due = held.get(step);
      if (!due) continue;
      let last = this.to;
      due.eachTime((_, time) => {
        if (time > last) last = time;
      });
      const bound = Math.max(lane.nextBound(step, last), lane.nextBound(step, lane.closedUpTo(step)));
      const { out, waiting } = lane.advance(step, due, bound);
      after.add(out);
      for (const { step: later, batch } of waiting) hold(later, batch);
    }
    return this.told(lane, after);
  }

  private told(lane: Lane, after: Tallies): LaneEffect {
    const before = this.all;
    const names = [...new Set([...before.metrics.keys(), ...after.metrics.keys()])].sort();
    const series = lane.seriesCounts(this.series);
    return {
      arrivals: before.amounts(),
      stored: after.amounts(),
      steps: Object.entries(lane.counts()).map(([id, count]) => ({
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
      traces: this.examples.map((one) => ({
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
}
