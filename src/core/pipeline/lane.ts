import type { Attributes, SeriesIdentity } from "../metric/model";
import { Batch, type Destination } from "../otlp/batch";
import type { Dictionary, KnownSeries } from "../otlp/dictionary";
import { predicate } from "../reading/conditions";
import { parseCondition } from "../reading/parse";
import { type ComputeState, Computing, readMetrics } from "./compute";
import { shortHash } from "./hash";
import { type Base, seriesText } from "./increases";
import { Meeting, type MeetSettings, type MeetState } from "./meet";
import type { StepConfig } from "./metricSteps";
import type { LevelHow } from "./parts";
import { type Shape, shapeOf } from "./shapes";
import { changesValues, changeValues } from "./values";
import type { Waits } from "./waits";

/**
 * A lane of steps over metrics. What a step does to a point depends on its series alone, so the way of each series
 * through the lane is worked out once and kept: a point of a known series costs one look-up, however many steps there
 * are. A way ends outside, nowhere, or at a step where series meet, which holds points until its window closes:
 *
 * - {@link admit} sends points as far as they go at once, and says which have to wait at which step;
 * - {@link advance} closes the windows of a step with the points that waited there and sends the results on.
 *
 * Whoever runs the lane keeps the waiting points and the state of the steps; the lane keeps nothing of value.
 */

/** Points that wait at a step. */
export interface Waiting {
  step: string;
  batch: Batch;
}

/** How many went into a step and came out; where points wait, also levels that came too late and what cannot be worked with. */
export interface StepCount {
  in: number;
  out: number;
  late?: number;
  refused?: number;
}

/** A step of another lane whose counts are added up here, and go on from the lane's beginning. */
export interface CountedStep {
  id: string;
  type: "counted";
  every: number;
}
type LaneStep = StepConfig | CountedStep;
/** A series, by a hash, that a limit lets through. */
export interface Seen {
  step: string;
  metric: string;
  series: string;
}

export type WaitState = MeetState | ComputeState;

type Shaping = Exclude<
  StepConfig["type"],
  "keep" | "drop" | "slow" | "limit" | "unit" | "coarsen" | "metric" | "compute"
>;
const SHAPING: ReadonlySet<string> = new Set<Shaping>([
  "rename",
  "copy",
  "hash",
  "set",
  "remove",
  "redact",
  "fold",
  "merge",
]);
/** Steps that bring series together only where they change what a series is called. */
const MEETS_BY_CHANGE: ReadonlySet<string> = new Set(["set", "remove", "redact", "fold"]);

interface Step {
  config: LaneStep;
  matches: (series: KnownSeries) => boolean;
  shape: Shape | null;
  /** Metrics of which series meet here: then all of a metric's that match do. */
  touched: Set<string>;
  /** Of a limit: the series that are within it, by metric. */
  within: Map<string, Set<string>>;
  count: StepCount;
}

type End = { type: "out" } | { type: "gone" } | { type: "meet"; step: number } | { type: "values"; step: number };

/** The way of a series from some step on. */
interface Way {
  /** Steps that let it pass, and those that end it. */
  passed: number[];
  end: End;
  /** The series at the end. */
  series: KnownSeries;
}

/** The attributes that conditions are about. */
function attributesOf({ metric, identity }: KnownSeries): Attributes {
  const { name, unit } = metric.identity;
  return { ...identity.resource, ...identity.attributes, metric: name, unit };
}

export class Lane {
  private readonly steps: Step[];
  /** Ways by series, per step that they begin at. */
  private readonly ways: Map<KnownSeries, Way[]>[];
  private readonly fresh: Seen[] = [];
  private readonly meetings = new Map<string, Waits<WaitState>>();

  /**
   * @param configs in their order; those that are off are passed over
   * @param began when the lane begins to run, Unix ms
   * @param saved what steps remembered, by their ids
   * @param counted steps of other lanes whose counts come in
   * @param closed up to when steps of a lane before this one closed their windows, Unix ms
   */
  constructor(
    configs: readonly StepConfig[],
    private readonly dictionary: Dictionary,
    began: number,
    saved: Readonly<Record<string, WaitState>> = {},
    counted: readonly CountedStep[] = [],
    closed = Number.NEGATIVE_INFINITY,
  ) {
    const before = counted.map((config): Step => {
      const count = { in: 0, out: 0 };
      return { config, matches: () => false, shape: null, touched: new Set(), within: new Map(), count };
    });
    const own = configs
      .filter(({ on }) => on)
      .map((config): Step => {
        const test = predicate(parseCondition(config.where));
        const shape = SHAPING.has(config.type) ? shapeOf(config) : null;
        const read = config.type === "compute" ? readMetrics(config) : null;
        const matches = (series: KnownSeries) =>
          (read === null || read.has(series.metric.identity.name)) && test(attributesOf(series));
        return { config, matches, shape, touched: new Set(), within: new Map(), count: { in: 0, out: 0 } };
      });
    this.steps = [...before, ...own];
    this.ways = this.steps.map(() => new Map());
    this.ways.push(new Map());
    for (const step of this.steps) {
      const { config } = step;
      const settings = this.settingsOf(step);
      if (config.type === "compute")
        this.meetings.set(
          config.id,
          new Computing(config, began, saved[config.id] as ComputeState | undefined, closed),
        );
      else if (settings)
        this.meetings.set(config.id, new Meeting(settings, began, saved[config.id] as MeetState | undefined, closed));
    }
  }

  /** Steps where points wait, in their order. */
  get waitingSteps(): string[] {
    return this.steps.map(({ config }) => config.id).filter((id) => this.meetings.has(id));
  }

  /** How a step brings series together; null where it never does. */
  private settingsOf(step: Step): MeetSettings | null {
    const { config } = step;
    const target = (series: KnownSeries) => this.shaped(step, series);
    switch (config.type) {
      case "counted":
        return { every: config.every * 1000, within: "last", across: "sum", target: (one) => one, repeats: false };
      case "set":
      case "remove":
      case "redact":
      case "fold":
        return { every: config.every * 1000, within: "last", across: config.gauges, target };
      case "limit":
        return { every: 10_000, within: "last", across: "sum", target: (series) => this.overflow(series) };
      case "merge":
        return {
          every: config.every * 1000,
          within: "last",
          across: config.how,
          target,
          distinctOf: (series) => JSON.stringify(removedFrom(series.identity, target(series).identity)),
        };
      case "slow":
        return {
          every: config.every * 1000,
          within: config.gauges as LevelHow,
          across: "last",
          target: (series) => series,
        };
      default:
        return null;
    }
  }

  /** A series as a step names it. */
  private shaped({ config, shape }: Step, series: KnownSeries): KnownSeries {
    const identity = shape ? shape(series.identity) : series.identity;
    const { metric } = series;
    const name = config.type === "merge" && config.to !== "" ? config.to : metric.identity.name;
    if (identity === series.identity && name === metric.identity.name) return series;
    const known =
      name === metric.identity.name ? metric : this.dictionary.metric({ ...metric.identity, name }, metric.description);
    return this.dictionary.series(known, identity);
  }

  /** The series of what is past a limit (OpenTelemetry metrics SDK, "Overflow attribute"). */
  private overflow({ metric, identity }: KnownSeries): KnownSeries {
    const attributes = { "otel.metric.overflow": true };
    return this.dictionary.series(metric, { resource: identity.resource, scope: identity.scope, attributes });
  }

  private waysFrom(first: number, series: KnownSeries): Way[] {
    const known = this.ways[first].get(series);
    if (known) return known;
    const ways = this.findWays(first, series);
    this.ways[first].set(series, ways);
    return ways;
  }

  private findWays(first: number, from: KnownSeries): Way[] {
    const passed: number[] = [];
    let series = from;
    for (let i = first; i < this.steps.length; i++) {
      const step = this.steps[i];
      const { config } = step;
      const matches = step.matches(series);
      if (config.type === "counted") continue;
      if (config.type === "keep") {
        passed.push(i);
        if (!matches) return [{ passed, end: { type: "gone" }, series }];
        continue;
      }
      if (!matches) continue;
      if (config.type === "drop") return [{ passed: [...passed, i], end: { type: "gone" }, series }];
      if (this.meetsAt(i, series)) {
        const way: Way = { passed: [...passed, i], end: { type: "meet", step: i }, series };
        const goesOn = (config.type === "merge" || config.type === "compute") && config.originals;
        return goesOn ? [way, ...this.findWays(i + 1, series)] : [way];
      }
      if ((config.type === "unit" || config.type === "coarsen") && changesValues(config, series.metric.identity))
        return [{ passed: [...passed, i], end: { type: "values", step: i }, series }];
      passed.push(i);
      if (config.type === "metric") {
        const metric = this.dictionary.metric(
          { ...series.metric.identity, name: config.to },
          series.metric.description,
        );
        series = this.dictionary.series(metric, series.identity);
      } else if (step.shape) series = this.shaped(step, series);
    }
    return [{ passed, end: { type: "out" }, series }];
  }

  /** Whether a series meets others at a step. */
  private meetsAt(i: number, series: KnownSeries): boolean {
    const step = this.steps[i];
    const { type } = step.config;
    if (type === "merge" || type === "slow" || type === "compute") return true;
    if (type === "limit") return this.isPast(step, step.config.series, series);
    if (!MEETS_BY_CHANGE.has(type)) return false;
    const { name } = series.metric.identity;
    if (step.touched.has(name)) return true;
    const target = this.shaped(step, series);
    if (target === series) return false;
    // An attribute that was not there before cannot have told series from each other.
    if (type === "set" && keysOf(target.identity) > keysOf(series.identity)) return false;
    step.touched.add(name);
    // Series of this metric that went past before go with the others from now on.
    for (const ways of this.ways) ways.clear();
    return true;
  }

  private isPast({ config, within }: Step, most: number, series: KnownSeries): boolean {
    const { name } = series.metric.identity;
    let known = within.get(name);
    if (!known) {
      known = new Set();
      within.set(name, known);
    }
    const key = shortHash(series.key);
    if (known.has(key)) return false;
    if (known.size >= most) return true;
    known.add(key);
    this.fresh.push({ step: config.id, metric: name, series: key });
    return false;
  }

  /** Series that limits let through since this was last asked. */
  takeSeen(): Seen[] {
    return this.fresh.splice(0);
  }

  /** Tells limits of series that were let through elsewhere, or before. */
  addSeen(all: readonly Seen[]): void {
    const steps = new Map(this.steps.map((step) => [step.config.id, step]));
    for (const { step, metric, series } of all) {
      const within = steps.get(step)?.within;
      if (!within) continue;
      const known = within.get(metric) ?? new Set();
      within.set(metric, known.add(series));
    }
  }

  /**
   * Sends points through the lane. What comes out stays in the batch.
   *
   * @returns points that have to wait, by step
   */
  admit(batch: Batch): Waiting[] {
    return this.send(batch, 0);
  }

  private send(batch: Batch, first: number): Waiting[] {
    const waiting = new Map<number, Batch>();
    const changing = new Map<number, Batch>();
    const batchOf = (all: Map<number, Batch>, step: number) => {
      let found = all.get(step);
      if (!found) {
        found = new Batch();
        found.silent = batch.silent;
        all.set(step, found);
      }
      return found;
    };
    const ends: (Batch | undefined)[] = [];
    const endOf = (end: End): Batch | null => {
      if (end.type === "out") return batch;
      if (end.type === "gone") return null;
      let found = ends[end.step];
      if (!found) {
        found = batchOf(end.type === "meet" ? waiting : changing, end.step);
        ends[end.step] = found;
      }
      return found;
    };
    const known = this.ways[first];
    // What is given back is read at once, so that one list serves all points.
    const one: Destination = { batch, series: null as unknown as KnownSeries };
    const single = [one];
    const nowhere: Destination[] = [];
    batch.reroute((series, points) => {
      const ways = known.get(series) ?? this.waysFrom(first, series);
      if (ways.length === 1) {
        const [way] = ways;
        if (points > 0) this.note(way, points);
        const into = endOf(way.end);
        if (!into) return nowhere;
        one.batch = into;
        one.series = way.series;
        return single;
      }
      return ways.flatMap((way) => {
        if (points > 0) this.note(way, points);
        const into = endOf(way.end);
        return into ? [{ batch: into, series: way.series }] : [];
      });
    });
    const result: Waiting[] = [...waiting].map(([step, some]) => ({ step: this.steps[step].config.id, batch: some }));
    for (const [i, some] of changing) {
      const { config, count } = this.steps[i];
      if (config.type !== "unit" && config.type !== "coarsen") continue;
      const changed = changeValues(config, some, this.dictionary);
      count.out += changed.points;
      result.push(...this.send(changed, i + 1));
      batch.append(changed);
    }
    return result;
  }

  private note({ passed, end }: Way, points: number): void {
    for (let k = 0; k < passed.length; k++) {
      const { count } = this.steps[passed[k]];
      count.in += points;
      if (k < passed.length - 1 || end.type === "out") count.out += points;
    }
  }

  /** The last bound of a window of a step at or before a moment, Unix ms. */
  boundAt(step: string, moment: number): number {
    return this.meetings.get(step)?.boundAt(moment) ?? moment;
  }

  /** The first bound of a window of a step after a moment, Unix ms. */
  nextBound(step: string, moment: number): number {
    return this.meetings.get(step)?.boundAfter(moment) ?? moment;
  }

  /** Up to when the windows of a step are closed, Unix ms. */
  closedUpTo(step: string): number {
    return this.meetings.get(step)?.closedUpTo ?? Number.NEGATIVE_INFINITY;
  }

  /**
   * Closes the windows of a step up to a bound, which lies behind what is closed already, with every point that waited there and is not later.
   *
   * @returns what comes out of the lane, and what has to wait at later steps
   */
  advance(step: string, due: Batch, upTo: number): { out: Batch; waiting: Waiting[] } {
    const meeting = this.meetings.get(step);
    const place = this.steps.findIndex(({ config }) => config.id === step);
    if (!meeting || place < 0) return { out: due, waiting: [] };
    const out = meeting.advance(due, upTo, this.dictionary);
    this.steps[place].count.out += out.points;
    return { out, waiting: this.send(out, place + 1) };
  }

  /** Series of a batch that would only give a base to a step, because nothing is known of their totals before. */
  lacking(step: string, batch: Batch): KnownSeries[] {
    const increases = this.meetings.get(step)?.increases;
    return increases ? [...new Set(batch.series())].filter((series) => increases.lacks(series)) : [];
  }

  /** Tells a step what a series added up to before. */
  seed(step: string, series: KnownSeries, base: Base): void {
    this.meetings.get(step)?.increases.seed(seriesText(series), base);
  }

  /** Whether a series comes out as it is, met by no other. */
  passes(series: KnownSeries): boolean {
    return this.trace(series).some(
      ({ series: end, met }) => !met && end.key === series.key && end.metric === series.metric,
    );
  }

  /** What the steps remember, by their ids. */
  save(): Record<string, WaitState> {
    return Object.fromEntries([...this.meetings].map(([id, meeting]) => [id, meeting.save()]));
  }

  /** Points that went in and came out of each step since the lane began. */
  counts(): Record<string, StepCount & { late: number; refused: number }> {
    const own = this.steps.filter(({ config }) => config.type !== "counted");
    return Object.fromEntries(
      own.map(({ config, count }) => {
        const { late = 0, refused = 0 } = this.meetings.get(config.id) ?? {};
        return [config.id, { ...count, late, refused }];
      }),
    );
  }

  /** How many of some series, and of those that they become, go into each step and come out of it. */
  seriesCounts(all: Iterable<KnownSeries>): Record<string, StepCount> {
    const into = this.steps.map(() => new Set<KnownSeries>());
    const from = this.steps.map(() => new Set<string>());
    const follow = (series: KnownSeries, first: number) => {
      // What begins behind a step came out of it.
      if (first > 0) from[first - 1].add(keyed(series));
      for (const { passed, end, series: last } of this.waysFrom(first, series)) {
        passed.forEach((step, k) => {
          into[step].add(series);
          if (k < passed.length - 1 || end.type === "out") from[step].add(keyed(series));
        });
        if (end.type === "out" || end.type === "gone") continue;
        const next = this.behind(end, last);
        if (next) follow(next, end.step + 1);
      }
    };
    for (const series of all) follow(series, 0);
    return Object.fromEntries(
      this.steps.flatMap(({ config }, i) =>
        config.type === "counted" ? [] : [[config.id, { in: into[i].size, out: from[i].size }]],
      ),
    );
  }

  /** What a series is called behind the step that ends its way; null where several together give another. */
  private behind({ type, step }: Extract<End, { step: number }>, series: KnownSeries): KnownSeries | null {
    const { config } = this.steps[step];
    return type === "meet"
      ? this.meetings.get(config.id)!.targetOf(series, this.dictionary)
      : valued(config, series, this.dictionary);
  }

  /** What a series is called at the end, and whether it met others on the way. Nothing where it goes nowhere. */
  trace(series: KnownSeries, first = 0, met = false): { series: KnownSeries; met: boolean }[] {
    return this.waysFrom(first, series).flatMap(({ end, series: last }) => {
      if (end.type === "gone") return [];
      if (end.type === "out") return [{ series: last, met }];
      const next = this.behind(end, last);
      return next ? this.trace(next, end.step + 1, met || end.type === "meet") : [];
    });
  }

  /** What went wrong at steps when they last closed a window, by their ids. */
  problems(): Record<string, string> {
    return Object.fromEntries(
      [...this.meetings].flatMap(([id, one]) => (one instanceof Computing && one.problem ? [[id, one.problem]] : [])),
    );
  }

  /** Forgets the ways of series, when the dictionary forgot the series. */
  forgetWays(): void {
    for (const ways of this.ways) ways.clear();
  }
}

function keyed({ metric, key }: KnownSeries): string {
  return `${metric.identity.name} ${metric.identity.unit} ${key}`;
}

/** A series behind a step that changes its values. */
function valued(config: LaneStep, series: KnownSeries, dictionary: Dictionary): KnownSeries {
  if (config.type !== "unit") return series;
  const { identity, description } = series.metric;
  return dictionary.series(dictionary.metric({ ...identity, unit: config.to }, description), series.identity);
}

function keysOf({ resource, attributes }: SeriesIdentity): number {
  return Object.keys(resource).length + Object.keys(attributes).length;
}

/** What a merge took away from a series. */
function removedFrom(before: SeriesIdentity, after: SeriesIdentity): [string, unknown][] {
  const gone = (a: Attributes, b: Attributes) => Object.entries(a).filter(([name]) => !Object.hasOwn(b, name));
  return [...gone(before.resource, after.resource), ...gone(before.attributes, after.attributes)].sort(([a], [b]) =>
    a < b ? -1 : 1,
  );
}
