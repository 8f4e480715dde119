import { labelOf } from "../metric/labels";
import type { SeriesIdentity } from "../metric/model";
import type { Dictionary, KnownSeries } from "../otlp/dictionary";
import { type LookUp, passes } from "../reading/language/conditions";
import { parseCondition } from "../reading/language/parse";
import { shortHash } from "./hash";
import { headSize } from "./size";
import { type Kind, kindOf, type StepConfig } from "./steps";
import type { Shape } from "./steps/attributes";
import type { ValueChange } from "./steps/definition";

/**
 * Ways of series through the steps of a lane. What a step does to a point depends on its series alone, so the way of each
 * series is worked out once and kept. A way ends outside, nowhere, at a step where series meet, or at one that changes
 * values; from behind such a step, the series that comes out has a way of its own.
 */

/**
 * How many points or records went into a step and came out, and about their bytes; where points wait, also levels that
 * came too late and what cannot be worked with.
 */
export interface StepCount {
  in: number;
  out: number;
  inBytes: number;
  outBytes: number;
  late?: number;
  refused?: number;
}

export function nothingCounted(): StepCount {
  return { in: 0, out: 0, inBytes: 0, outBytes: 0 };
}

/** A step of another lane whose counts are added up here, and go on from the lane's beginning. */
export interface CountedStep {
  id: string;
  type: "counted";
  every: number;
}
export type LaneStep = StepConfig | CountedStep;

/** A series, by a hash, that a limit lets through. */
export interface Seen {
  step: string;
  metric: string;
  series: string;
}

export interface Step {
  config: LaneStep;
  /** What kind of step it is; null for one of another lane. */
  kind: Kind | null;
  matches: (series: KnownSeries) => boolean;
  shape: Shape | null;
  /** The name that metrics have behind it; "" for their own. */
  name: string;
  /** What it does to values; null where it leaves them. */
  values: ValueChange | null;
  /** Whether what it is given goes on as well. */
  originals: boolean;
  /** When series meet here. */
  windowed: "always" | "by change" | number | null;
  /** What series are called behind it, worked out once. */
  shaped: Map<KnownSeries, KnownSeries>;
  /** Metrics of which series meet here: then all of a metric's that match do. */
  touched: Set<string>;
  /** Of a limit: the series that are within it, by metric. */
  within: Map<string, Set<string>>;
  count: StepCount;
}

export type End =
  | { type: "out" }
  | { type: "gone" }
  | { type: "windowed"; step: number }
  | { type: "values"; step: number };

/** The way of a series from some step on. */
export interface Way {
  /** Steps that let it pass, and those that end it. */
  passed: number[];
  /** The series as it comes to each of them. */
  named: KnownSeries[];
  /** What a point takes beside its numbers as it comes to each of them, and behind the last. */
  sizes: number[];
  end: End;
  /** The series at the end. */
  series: KnownSeries;
}

/** The attributes that conditions are about: those of points before those of the resource. */
function lookInto({ metric, identity }: KnownSeries): LookUp {
  return (name) => {
    if (name === "metric") return metric.identity.name;
    if (name === "unit") return metric.identity.unit;
    return labelOf(identity, name);
  };
}

/** What holds of every step before it has seen anything. */
const fresh = () => ({
  shape: null,
  name: "",
  values: null,
  originals: false,
  windowed: null,
  shaped: new Map(),
  touched: new Set<string>(),
  within: new Map(),
  count: nothingCounted(),
});

function stepOf(config: StepConfig): Step {
  const kind = kindOf(config);
  const test = passes(parseCondition(config.where));
  const read = kind.reads?.(config);
  const { windowed } = kind;
  return {
    ...fresh(),
    config,
    kind,
    matches: (series) => (!read || read.has(series.metric.identity.name)) && test(lookInto(series)),
    shape: kind.shape?.(config) ?? null,
    name: kind.renames?.(config) ?? "",
    values: kind.values?.(config) ?? null,
    originals: kind.originals?.(config) ?? false,
    windowed: typeof windowed === "function" ? windowed(config) : (windowed ?? null),
  };
}

export class Routes {
  readonly steps: readonly Step[];
  /** By series, per step that they begin at. */
  private readonly ways: Map<KnownSeries, Way[]>[];
  private readonly fresh: Seen[] = [];

  /**
   * @param configs in their order; those that are off are passed over
   * @param counted steps of other lanes whose counts come in
   */
  constructor(
    configs: readonly StepConfig[],
    counted: readonly CountedStep[],
    private readonly dictionary: Dictionary,
  ) {
    const before = counted.map((config): Step => ({ ...fresh(), config, kind: null, matches: () => false }));
    const own = configs.filter(({ on }) => on).map(stepOf);
    this.steps = [...before, ...own];
    this.ways = this.steps.map(() => new Map());
    this.ways.push(new Map());
  }

  /** A series as a step names it. */
  shaped(step: Step, series: KnownSeries): KnownSeries {
    let known = step.shaped.get(series);
    if (!known) {
      known = this.shape(step, series);
      step.shaped.set(series, known);
    }
    return known;
  }

  private shape({ shape, name: given }: Step, series: KnownSeries): KnownSeries {
    const identity = shape ? shape(series.identity) : series.identity;
    const { metric } = series;
    const name = given === "" ? metric.identity.name : given;
    if (identity === series.identity && name === metric.identity.name) return series;
    const known =
      name === metric.identity.name ? metric : this.dictionary.metric({ ...metric.identity, name }, metric.description);
    return this.dictionary.series(known, identity);
  }

  /** The series of what is past a limit (OpenTelemetry metrics SDK, "Overflow attribute"). */
  overflow({ metric, identity }: KnownSeries): KnownSeries {
    const attributes = { "otel.metric.overflow": true };
    return this.dictionary.series(metric, { resource: identity.resource, scope: identity.scope, attributes });
  }

  /** The ways of a series from a step on: several where its points go on beside meeting others. */
  from(first: number, series: KnownSeries): Way[] {
    const known = this.ways[first].get(series);
    if (known) return known;
    const ways = this.findWays(first, series);
    this.ways[first].set(series, ways);
    return ways;
  }

  private findWays(first: number, from: KnownSeries): Way[] {
    const passed: number[] = [];
    const named: KnownSeries[] = [];
    const sizes: number[] = [];
    let series = from;
    const come = (step: number) => {
      passed.push(step);
      named.push(series);
      sizes.push(headSize(series));
    };
    const way = (end: End): Way => ({ passed, named, sizes: [...sizes, headSize(series)], end, series });
    for (let i = first; i < this.steps.length; i++) {
      const step = this.steps[i];
      if (!step.kind) continue;
      const matches = step.matches(series);
      const { lets } = step.kind;
      if (lets === "matching") {
        come(i);
        if (!matches) return [way({ type: "gone" })];
        continue;
      }
      if (!matches) continue;
      come(i);
      if (lets === "others") return [way({ type: "gone" })];
      if (this.isWindowedAt(i, series)) {
        const windowed = way({ type: "windowed", step: i });
        return step.originals ? [windowed, ...this.findWays(i + 1, series)] : [windowed];
      }
      if (step.values?.changes(series.metric.identity)) return [way({ type: "values", step: i })];
      if (step.shape || step.name !== "") series = this.shaped(step, series);
    }
    return [way({ type: "out" })];
  }

  /** Whether a series meets others at a step. */
  private isWindowedAt(i: number, series: KnownSeries): boolean {
    const step = this.steps[i];
    const { windowed } = step;
    if (windowed === null || windowed === "always") return windowed !== null;
    if (typeof windowed === "number") return this.isPast(step, windowed, series);
    const { name } = series.metric.identity;
    if (step.touched.has(name)) return true;
    const target = this.shaped(step, series);
    if (target === series) return false;
    // An attribute that was not there before cannot have told series from each other.
    if (step.kind?.adds && keysOf(target.identity) > keysOf(series.identity)) return false;
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

  /** Forgets which series limits let through: those that still come are let through again, and said to be in use. */
  forgetSeen(): void {
    for (const { within } of this.steps) within.clear();
    for (const ways of this.ways) ways.clear();
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

  /** Forgets the ways of series, when the dictionary forgot the series. */
  forget(): void {
    for (const ways of this.ways) ways.clear();
    for (const { shaped } of this.steps) shaped.clear();
  }
}

function keysOf({ resource, attributes }: SeriesIdentity): number {
  return Object.keys(resource).length + Object.keys(attributes).length;
}
