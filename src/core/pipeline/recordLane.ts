import type { LogRecord } from "../log/model";
import { valueText } from "../metric/text";
import type { Batch } from "../otlp/batch";
import type { Dictionary } from "../otlp/dictionary";
import { passes } from "../reading/conditions";
import { parseCondition } from "../reading/parse";
import { canonicalAttribute } from "../reading/tree";
import type { Span } from "../span/model";
import { Counting, type CountingStep, isCounting } from "./derived";
import { reader } from "./parseText";
import type { RecordStep } from "./recordSteps";
import { lookInto, type Passing, passing, settled, type TelemetryRecord } from "./records";
import { nothingCounted, type StepCount } from "./routes";
import { sampled } from "./sampling";
import { shapeOf } from "./shapes";
import { passingSize, recordSize } from "./size";

/**
 * A lane of steps over spans or log records. Every step looks at one record at a time and keeps nothing, so any number
 * of processes may run the lane side by side and in any order of arrival, but for two that wait:
 *
 * - steps that count records hand their counts over, to be added up window by window ({@link Counting});
 * - tail sampling hands spans over until their trace is decided on; {@link RecordLane.resume} takes them further.
 *
 * Whoever runs the lane keeps what waits.
 */

/** What a lane makes of records. */
export interface Admitted<T> {
  /** What came out at the end. */
  out: T[];
  /** Counts that wait, by step. */
  counted: { step: string; batch: Batch }[];
  /** Spans that wait to be decided on, by step. */
  undecided: { step: string; spans: Span[] }[];
}

interface Step {
  config: RecordStep;
  matches: (one: Passing<TelemetryRecord>) => boolean;
  /** What becomes of one that matches; null where it goes no further. */
  apply: <T extends TelemetryRecord>(one: Passing<T>) => Passing<T> | null;
  count: StepCount;
}

/** Changes that a step makes to one record at a time; null for steps that do something else. */
function applying(config: RecordStep): Step["apply"] {
  const same = <T extends TelemetryRecord>(one: Passing<T>) => one;
  switch (config.type) {
    case "drop":
      return () => null;
    case "sample":
      return (one) => {
        const record = sampled(one.record, config.share);
        return record && { ...one, record };
      };
    case "parse": {
      const read = reader(config);
      const from = canonicalAttribute(config.from);
      return (one) => {
        const { attributes } = one.now;
        const value = attributes[from];
        if (value === undefined) return one;
        // What is there already is not overwritten: it was said, not found.
        const found = Object.entries(read(valueText(value))).filter(([name]) => !Object.hasOwn(attributes, name));
        if (found.length === 0) return one;
        return { ...one, now: { ...one.now, attributes: { ...attributes, ...Object.fromEntries(found) } } };
      };
    }
    default: {
      const shape = shapeOf(config);
      return shape ? (one) => ({ ...one, now: shape(one.now) }) : same;
    }
  }
}

export class RecordLane {
  private readonly steps: Step[];

  /** @param configs in their order; those that are off are passed over */
  constructor(
    configs: readonly RecordStep[],
    private readonly dictionary: Dictionary,
  ) {
    this.steps = configs
      .filter(({ on }) => on)
      .map((config) => {
        const test = passes(parseCondition(config.where));
        const everything = config.where.trim() === "";
        return {
          config,
          matches: everything ? () => true : (one) => test(lookInto(one)),
          apply: applying(config),
          count: nothingCounted(),
        };
      });
  }

  /** Whether nothing happens to records here. */
  get empty(): boolean {
    return this.steps.length === 0;
  }

  /** Sends records through the lane. @param now Unix ms */
  admit<T extends Span | LogRecord>(records: readonly T[], now: number): Admitted<T> {
    if (this.empty) return { out: [...records], counted: [], undecided: [] };
    return this.send(records.map(passing), 0, now);
  }

  /** Takes spans further from behind the step where they waited. */
  resume(step: string, spans: readonly Span[], now: number): Admitted<Span> {
    const place = this.steps.findIndex(({ config }) => config.id === step);
    if (place >= 0) {
      const { count } = this.steps[place];
      count.out += spans.length;
      count.outBytes += spans.reduce((sum, span) => sum + recordSize(span), 0);
    }
    return this.send(spans.map(passing), place + 1, now);
  }

  private send<T extends Span | LogRecord>(all: readonly Passing<T>[], first: number, now: number): Admitted<T> {
    const counting = new Map<Step, Counting>();
    const undecided = new Map<string, Span[]>();
    const out: T[] = [];
    const follow = (begin: Passing<T>) => {
      let one: Passing<T> | null = begin;
      // Worked out again only where a step changed something.
      let sized = begin.now;
      let bytes = -1;
      const size = (passed: Passing<T>) => {
        if (bytes < 0 || passed.now !== sized) bytes = passingSize(passed);
        sized = passed.now;
        return bytes;
      };
      for (let i = first; i < this.steps.length; i++) {
        const step = this.steps[i];
        const { config, count } = step;
        const matches = step.matches(one);
        if (!matches && config.type !== "keep") continue;
        count.in++;
        count.inBytes += size(one);
        if (config.type === "keep" && !matches) return;
        if (config.type === "tail") {
          const waiting = undecided.get(config.id) ?? [];
          waiting.push(settled(one) as Span);
          undecided.set(config.id, waiting);
          return;
        }
        if (isCounting(config)) this.countAt(step, config, counting, now).add(one);
        one = step.apply(one);
        if (!one) return;
        count.out++;
        count.outBytes += size(one);
      }
      out.push(settled(one));
    };
    for (const one of all) follow(one);
    return {
      out,
      counted: [...counting].map(([{ config }, count]) => ({ step: config.id, batch: count.batch() })),
      undecided: [...undecided].map(([step, spans]) => ({ step, spans })),
    };
  }

  private countAt(step: Step, config: CountingStep, all: Map<Step, Counting>, now: number): Counting {
    let counting = all.get(step);
    if (!counting) {
      counting = new Counting(config, this.dictionary, now);
      all.set(step, counting);
    }
    return counting;
  }

  /** Records that went into each step and came out of it since the lane began. */
  counts(): Record<string, StepCount> {
    return Object.fromEntries(this.steps.map(({ config, count }) => [config.id, { ...count }]));
  }
}
