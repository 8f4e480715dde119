import type { ContractBody } from "../contract/contract";
import type { LogRecord } from "../log/model";
import type { Batch } from "../otlp/batch/batch";
import { Dictionary, type KnownSeries } from "../otlp/dictionary";
import { batchOf, type OpenBlock, openBlock } from "../pipeline/block";
import type { PipelineConfig } from "../pipeline/config";
import { seriesCounts } from "../pipeline/follow";
import type { Lane } from "../pipeline/lane";
import { Pipeline } from "../pipeline/pipeline";
import { type HeldSeries, heldSeries } from "../reading/offline";
import type { Span } from "../span/model";
import { defaultStep } from "../window/steps";
import { type BrokenPlate, brokenPlates, type PlateReading } from "./brokenPlates";
import { type FollowAnswer, type FollowAsked, followed, type PointsOf } from "./followed";
import { countedTwice } from "./mistakes";
import { type Origin, originsOf } from "./origins";
import { type RecordDryRun, tryRecords } from "./recordDryRun";
import { type Amounts, Tallies } from "./tallies";
import { triedRecordValues, triedValues, type ValueDryRun } from "./tryOut";
import { unchangedMetrics } from "./unchangedMetrics";
import {
  type ContractDryRun,
  contractDryRuns,
  type ReadingDryRun,
  readingDryRun,
  type WatchedReading,
} from "./watchedReading";

/** What a pipeline does to arrivals of some minutes: tried out on them, in the very code that runs it. */

/** One metric, by name, before and after. */
export interface MetricDryRun {
  name: string;
  before: Amounts;
  after: Amounts;
  /** Attributes that some of its series had, and have. */
  had: string[];
  has: string[];
}

/** What goes through a step: points, spans or records, about their bytes; series only of the lane for metrics. */
export interface Flow {
  series: number | null;
  points: number;
  bytes: number;
}

export interface StepDryRun {
  id: string;
  in: Flow;
  out: Flow;
  /** What becomes of the values that it changes. */
  values: ValueDryRun[];
  /** Why it gave nothing, or not what it says; null where nothing is wrong. */
  problem: string | null;
}

export interface LaneDryRun {
  arrivals: Amounts;
  stored: Amounts;
  steps: StepDryRun[];
  metrics: MetricDryRun[];
  /** Metrics of which series come out both by themselves and in what they were merged into. */
  twice: { metric: string; series: number }[];
  spans: RecordDryRun;
  records: RecordDryRun;
}

/** What is to be told of a draft. */
export interface Question {
  live: PipelineConfig;
  draft: PipelineConfig;
  readings: readonly WatchedReading[];
  contracts: readonly ContractBody[];
  /** What stands on sheets. */
  plates: readonly PlateReading[];
  follow: FollowAsked;
}

export interface DryRun {
  live: LaneDryRun;
  draft: LaneDryRun;
  readings: ReadingDryRun[];
  contracts: ContractDryRun[];
  plates: BrokenPlate[];
  followed: FollowAnswer;
  origins: Origin[];
  /** How long the draft took, ms. */
  took: number;
}

/** A version that was tried, and what is stored by it. */
interface Run {
  dryRun: LaneDryRun;
  lane: Lane;
  stored: Batch[];
  held: HeldSeries[] | null;
  byMetric: Map<string, KnownSeries[]> | null;
}

/** Steps of a reading of some minutes, at most. */
const FINEST = 5000;
/** Records whose values are tried. */
const MAX_TRIED = 2000;

/** Arrivals to try drafts on: opened once, whatever the number of drafts. */
export class Arrivals {
  private readonly dictionary = new Dictionary();
  private readonly blocks: OpenBlock[];
  private readonly all = new Tallies();
  private readonly series = new Set<KnownSeries>();
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
    this.origins = originsOf(this.series);
  }

  private batches(): Batch[] {
    return this.blocks.map(batchOf);
  }

  /**
   * Compares a draft with what is live.
   *
   * @param clock milliseconds, to tell how long it took
   */
  dryRunOf({ live, draft, readings, contracts, plates, follow }: Question, clock: () => number = () => 0): DryRun {
    const began = clock();
    const drafted = this.run(draft);
    const took = clock() - began;
    const key = JSON.stringify(live);
    if (this.live?.key !== key) this.live = { key, run: this.run(live) };
    const running = this.live.run;
    return {
      live: running.dryRun,
      draft: drafted.dryRun,
      readings: readings.map((looked) => this.read(looked, running, drafted)),
      contracts: contracts.length === 0 ? [] : contractDryRuns(contracts, byMetric(running), byMetric(drafted)),
      plates: plates.length === 0 ? [] : brokenPlates(plates, byMetric(running), byMetric(drafted)),
      followed: followed(
        drafted.lane,
        this.series,
        follow,
        this.blocks.flatMap(pointsOfBlock),
        pointsOf(drafted.stored),
      ),
      origins: this.origins,
      took,
    };
  }

  private read(looked: WatchedReading, live: Run, draft: Run): ReadingDryRun {
    const span = this.to - this.from;
    // A window's points lie at its end: over two windows, where in one they lay matters little.
    const windows = [live, draft].flatMap(({ lane }) => lane.windows().map((one) => Math.min(2 * one, span / 4)));
    const every = Math.max(FINEST, defaultStep(this.from, this.to, span / 24), ...windows);
    const asked = { from: this.from, to: this.to, every, zone: "UTC", picks: {} };
    for (const run of [live, draft]) run.held ??= heldSeries(run.stored);
    return readingDryRun(looked, live.held!, draft.held!, asked);
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
    const born = new Map<string, Set<KnownSeries>>();
    for (const step of lane.waitingSteps) {
      const due = held.get(step);
      if (!due) continue;
      let last = this.to;
      due.eachTime((_, time) => {
        if (time > last) last = time;
      });
      const bound = Math.max(lane.boundAfter(step, last), lane.boundAfter(step, lane.closedUpTo(step)));
      const { out, waiting } = lane.advance(step, due, bound, (all) => {
        if (lane.isNew(step)) born.set(step, new Set(all.series()));
      });
      store(out);
      for (const { step: later, batch } of waiting) hold(later, batch);
    }
    const dryRun = { ...this.told(pipeline, lane, after, born), spans, records };
    return { dryRun, lane, stored, held: null, byMetric: null };
  }

  private told(
    pipeline: Pipeline,
    lane: Lane,
    after: Tallies,
    born: ReadonlyMap<string, Iterable<KnownSeries>>,
  ): Omit<LaneDryRun, "spans" | "records"> {
    const before = this.all;
    const names = [...new Set([...before.metrics.keys(), ...after.metrics.keys()])].sort();
    const series = seriesCounts(lane, this.series, born);
    const problems = { ...unchangedMetrics(lane, this.series), ...lane.problems() };
    const { traces, logs } = pipeline.config;
    const values = {
      ...triedValues(lane, this.series),
      ...triedRecordValues(traces, this.spans.slice(0, MAX_TRIED)),
      ...triedRecordValues(logs, this.records.slice(0, MAX_TRIED)),
    };
    return {
      arrivals: before.amounts(),
      stored: after.amounts(),
      steps: Object.entries(pipeline.counts()).map(([id, count]) => ({
        id,
        in: { points: count.in, series: series[id]?.in ?? null, bytes: count.inBytes },
        out: { points: count.out, series: series[id]?.out ?? null, bytes: count.outBytes },
        values: values[id] ?? [],
        problem: problems[id] ?? null,
      })),
      metrics: names.map((name) => ({
        name,
        before: before.amounts(name),
        after: after.amounts(name),
        had: before.attributes(name),
        has: after.attributes(name),
      })),
      twice: countedTwice(lane, this.series),
    };
  }
}

/** The series that a run stores, by the names of their metrics. */
function byMetric(run: Run): Map<string, KnownSeries[]> {
  if (!run.byMetric) {
    const all = new Map<string, Set<KnownSeries>>();
    for (const batch of run.stored)
      for (const series of batch.series()) {
        const { name } = series.metric.identity;
        const own = all.get(name);
        if (own) own.add(series);
        else all.set(name, new Set([series]));
      }
    run.byMetric = new Map([...all].map(([name, own]) => [name, [...own]]));
  }
  return run.byMetric;
}

function pointsOfBlock({ sets, series }: OpenBlock): PointsOf[] {
  return sets.map(({ metric, set }) => ({ metric, set, seriesOf: (id) => series[id - 1] }));
}

function* pointsOf(batches: readonly Batch[]): Iterable<PointsOf> {
  for (const batch of batches) {
    const { all, sets } = batch.inColumns();
    for (const { metric, set } of sets) yield { metric, set, seriesOf: (place) => all[place] };
  }
}
