import type { LogRecord } from "../log/model";
import { attributesText } from "../metric/text";
import type { Batch } from "../otlp/batch";
import { Dictionary, type KnownSeries } from "../otlp/dictionary";
import { type SideBySide, sideBySide } from "../reading/differences";
import { type HeldSeries, heldSeries, readHeld } from "../reading/offline";
import type { ReadingResult } from "../reading/result";
import { ReadingError } from "../reading/tree";
import type { Span } from "../span/model";
import { defaultStep } from "../window/steps";
import { batchOf, type OpenBlock, openBlock } from "./block";
import type { PipelineConfig } from "./config";
import { seriesCounts, trace } from "./follow";
import type { Lane } from "./lane";
import { type Origin, originsOf } from "./origins";
import { Pipeline } from "./pipeline";
import { type RecordEffect, tryRecords } from "./recordEffect";
import { type Amounts, Tallies } from "./tallies";

/** What a pipeline does to arrivals of some minutes: tried out on them, in the very code that runs it. */

/** One metric, by name, before and after. */
export interface MetricEffect {
  name: string;
  before: Amounts;
  after: Amounts;
  /** Attributes that some of its series had, and have. */
  had: string[];
  has: string[];
}

/** What goes into a step and comes out of it: points, spans or records; series only of the lane for metrics. */
export interface StepEffect {
  id: string;
  in: { series: number | null; points: number };
  out: { series: number | null; points: number };
  /** Why it gave nothing; null where nothing is wrong. */
  problem: string | null;
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
  spans: RecordEffect;
  records: RecordEffect;
}

/** A reading on what is stored as it runs, and as it is drafted. */
export interface ReadingEffect {
  text: string;
  /** Why it cannot be answered; null where it can. */
  problem: string | null;
  live: ReadingResult | null;
  draft: ReadingResult | null;
  pairs: SideBySide[];
}

export interface Effect {
  /** The span of the arrivals, ms. */
  span: number;
  live: LaneEffect;
  draft: LaneEffect;
  readings: ReadingEffect[];
  origins: Origin[];
  /** How long the draft took, ms. */
  took: number;
}

const MOST_TRACES = 12;

/** A version that was tried, and what is stored by it. */
interface Run {
  effect: LaneEffect;
  stored: Batch[];
  held: HeldSeries[] | null;
}

/** Steps of a reading of some minutes, at most. */
const FINEST = 5000;

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
  private live: { key: string; run: Run } | null = null;

  /** @param spans and records that came in the same minutes, as far as they were put aside */
  constructor(
    blocks: readonly Uint8Array[],
    private readonly spans: readonly Span[] = [],
    private readonly records: readonly LogRecord[] = [],
  ) {
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

  /**
   * Compares a draft with what is live.
   *
   * @param readings put to what each of them stores
   * @param clock milliseconds, to tell how long it took
   */
  effectOf(
    live: PipelineConfig,
    draft: PipelineConfig,
    readings: readonly string[] = [],
    clock: () => number = () => 0,
  ): Effect {
    const began = clock();
    const drafted = this.run(draft);
    const took = clock() - began;
    const key = JSON.stringify(live);
    if (this.live?.key !== key) this.live = { key, run: this.run(live) };
    const running = this.live.run;
    return {
      span: this.to - this.from,
      live: running.effect,
      draft: drafted.effect,
      readings: readings.map((text) => this.read(text, running, drafted)),
      origins: this.origins,
      took,
    };
  }

  private read(text: string, live: Run, draft: Run): ReadingEffect {
    const every = Math.max(FINEST, defaultStep(this.from, this.to, (this.to - this.from) / 24));
    const asked = { from: this.from, to: this.to, every, zone: "UTC", picks: {} };
    const answer = (run: Run) => {
      run.held ??= heldSeries(run.stored);
      return readHeld(text, run.held, asked, this.from);
    };
    try {
      const [before, after] = [answer(live), answer(draft)];
      return { text, problem: null, live: before, draft: after, pairs: sideBySide(before, after) };
    } catch (error) {
      if (!(error instanceof ReadingError)) throw error;
      return { text, problem: error.message, live: null, draft: null, pairs: [] };
    }
  }

  /** Runs the arrivals through a pipeline and closes every window. */
  private run(config: PipelineConfig): Run {
    const pipeline = new Pipeline(0, config, this.dictionary, this.from);
    const lane = pipeline.metrics;
    const after = new Tallies();
    const stored: Batch[] = [];
    const store = (batch: Batch) => {
      after.add(batch);
      stored.push(batch);
    };
    const held = new Map<string, Batch>();
    const hold = (step: string, batch: Batch) => {
      const known = held.get(step);
      if (known) known.append(batch);
      else held.set(step, batch);
    };
    for (const batch of this.batches()) {
      for (const { step, batch: more } of lane.admit(batch)) hold(step, more);
      store(batch);
    }
    const spans = tryRecords(pipeline, config.traces, this.spans, this.to, hold);
    const records = tryRecords(pipeline, config.logs, this.records, this.to, hold);
    for (const step of lane.waitingSteps) {
      const due = held.get(step);
      if (!due) continue;
      let last = this.to;
      due.eachTime((_, time) => {
        if (time > last) last = time;
      });
      const bound = Math.max(lane.nextBound(step, last), lane.nextBound(step, lane.closedUpTo(step)));
      const { out, waiting } = lane.advance(step, due, bound);
      store(out);
      for (const { step: later, batch } of waiting) hold(later, batch);
    }
    return { effect: { ...this.told(pipeline, lane, after), spans, records }, stored, held: null };
  }

  private told(pipeline: Pipeline, lane: Lane, after: Tallies): Omit<LaneEffect, "spans" | "records"> {
    const before = this.all;
    const names = [...new Set([...before.metrics.keys(), ...after.metrics.keys()])].sort();
    const series = seriesCounts(lane, this.series);
    const problems = lane.problems();
    return {
      arrivals: before.amounts(),
      stored: after.amounts(),
      steps: Object.entries(pipeline.counts()).map(([id, count]) => ({
        id,
        in: { points: count.in, series: series[id]?.in ?? null },
        out: { points: count.out, series: series[id]?.out ?? null },
        problem: problems[id] ?? null,
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
        ends: trace(lane, one).map(({ series: end, met }) => ({
          metric: end.metric.identity.name,
          attributes: attributesText(end.identity.attributes),
          unit: end.metric.identity.unit,
          met,
        })),
      })),
    };
  }
}
