import type { LogRecord } from "../log/model";
import type { Batch } from "../otlp/batch/batch";
import type { Dictionary } from "../otlp/dictionary";
import { passes } from "../reading/language/conditions";
import { parseCondition } from "../reading/language/parse";
import type { Span } from "../span/model";
import { Counting, type CountRecord } from "./derived";
import { lookInto, type Passing, passing, settled, type TelemetryRecord } from "./records";
import { nothingCounted, type StepCount } from "./routes";
import { passingSize, recordSize } from "./size";
import { type CountingConfig, type Kind, kindOf, type RecordStep } from "./steps";

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
  kind: Kind;
  matches: (one: Passing<TelemetryRecord>) => boolean;
  /** What becomes of one that matches; null where it goes no further. */
  apply: <T extends TelemetryRecord>(one: Passing<T>) => Passing<T> | null;
  /** What it counts; null where it counts nothing. */
  counts: ((one: Passing<TelemetryRecord>, count: CountRecord) => void) | null;
  count: StepCount;
}

/** What a step makes of one record at a time. */
function applying(config: RecordStep): Step["apply"] {
  const { lets, record, shape } = kindOf(config);
  if (lets === "others") return () => null;
  if (record) return record(config);
  if (!shape) return (one) => one;
  const change = shape(config);
  return (one) => ({ ...one, now: change(one.now) });
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
          kind: kindOf(config),
          apply: applying(config),
          counts: kindOf(config).counts?.(config) ?? null,
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
        const { config, kind, count } = step;
        const matches = step.matches(one);
        if (!matches && kind.lets !== "matching") continue;
        count.in++;
        count.inBytes += size(one);
        if (!matches) return;
        if (kind.waitsForTrace) {
          const waiting = undecided.get(config.id) ?? [];
          waiting.push(settled(one) as Span);
          undecided.set(config.id, waiting);
          return;
        }
        step.counts?.(one, this.countAt(step, counting, now));
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

  private countAt(step: Step, all: Map<Step, Counting>, now: number): Counting {
    let counting = all.get(step);
    if (!counting) {
      counting = new Counting(step.config as CountingConfig, this.dictionary, now);
      all.set(step, counting);
    }
    return counting;
  }

  /** Records that went into each step and came out of it since the lane began. */
  counts(): Record<string, StepCount> {
    return Object.fromEntries(this.steps.map(({ config, count }) => [config.id, { ...count }]));
  }
}
