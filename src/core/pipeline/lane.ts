import { Batch, type Destination } from "../otlp/batch/batch";
import type { Dictionary, KnownSeries } from "../otlp/dictionary";
import { type Base, seriesText } from "./increases";
import { type CountedStep, type End, Routes, type Step, type StepCount, type Way } from "./routes";
import { batchSize, columnsSize } from "./size";
import type { StepConfig } from "./steps";
import type { WaitState } from "./steps/definition";
import { changeValues, valued } from "./values";
import type { Waits } from "./waits";
import { WindowedAggregation, type WindowedSettings, type WindowedState } from "./windowed";

/**
 * A lane of steps over metrics. A point goes the way of its series ({@link Routes}), which costs one look-up however many
 * steps there are. Where series meet, points are held until their window closes:
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

/** Counts of records, added up: two of one time are two requests. */
const COUNTED = { within: "last", across: "sum", target: (one: KnownSeries) => one, repeats: false } as const;

export class Lane {
  readonly routes: Routes;
  private readonly steps: readonly Step[];
  private readonly windowed = new Map<string, Waits<WaitState>>();

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
    this.routes = new Routes(configs, counted, dictionary);
    this.steps = this.routes.steps;
    for (const step of this.steps) {
      const { config } = step;
      const waits = this.waitsAt(step, began, saved[config.id], closed);
      if (waits) this.windowed.set(config.id, waits);
    }
  }

  /** Steps where points wait, in their order. */
  get waitingSteps(): string[] {
    return this.steps.map(({ config }) => config.id).filter((id) => this.windowed.has(id));
  }

  /** How long the windows are in which points wait, ms. */
  windows(): number[] {
    return [...this.windowed.keys()].map((step) => this.boundAfter(step, 0));
  }

  /** Whether what comes out of a step is something else than what went in: figures, and counts of records. */
  isNew(step: string): boolean {
    const found = this.steps.find(({ config }) => config.id === step);
    return found !== undefined && (found.kind === null || found.kind.waits !== undefined);
  }

  /** How a step brings series together; null where it never does. */
  private waitsAt(step: Step, began: number, saved: WaitState | undefined, closed: number): Waits<WaitState> | null {
    const { config, kind } = step;
    if (config.type === "counted") {
      const settings: WindowedSettings = { ...COUNTED, every: config.every * 1000 };
      return new WindowedAggregation(settings, began, saved as WindowedState | undefined, closed);
    }
    if (kind?.waits) return kind.waits(config, began, saved, closed);
    const settings = kind?.window?.(config, {
      shaped: (series) => this.routes.shaped(step, series),
      overflow: (series) => this.routes.overflow(series),
    });
    return settings ? new WindowedAggregation(settings, began, saved as WindowedState | undefined, closed) : null;
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
        found = batchOf(end.type === "windowed" ? waiting : changing, end.step);
        ends[end.step] = found;
      }
      return found;
    };
    // What is given back is read at once, so that one list serves all points.
    const one: Destination = { batch, series: null as unknown as KnownSeries };
    const single = [one];
    const nowhere: Destination[] = [];
    batch.reroute((series, points, columns) => {
      const ways = this.routes.from(first, series);
      if (ways.length === 1) {
        const [way] = ways;
        if (points > 0) this.note(way, points, columns);
        const into = endOf(way.end);
        if (!into) return nowhere;
        one.batch = into;
        one.series = way.series;
        return single;
      }
      return ways.flatMap((way) => {
        if (points > 0) this.note(way, points, columns);
        const into = endOf(way.end);
        return into ? [{ batch: into, series: way.series }] : [];
      });
    });
    const result: Waiting[] = [...waiting].map(([step, some]) => ({ step: this.steps[step].config.id, batch: some }));
    for (const [i, some] of changing) {
      const { values, count } = this.steps[i];
      if (!values) continue;
      const changed = changeValues(values, some, this.dictionary);
      count.out += changed.points;
      count.outBytes += batchSize(changed);
      for (const one of this.send(changed, i + 1)) result.push(one);
      batch.append(changed);
    }
    return result;
  }

  private note({ passed, sizes, end }: Way, points: number, columns: number): void {
    const numbers = columnsSize(columns);
    for (let k = 0; k < passed.length; k++) {
      const { count } = this.steps[passed[k]];
      count.in += points;
      count.inBytes += points * (sizes[k] + numbers);
      if (k === passed.length - 1 && end.type !== "out") continue;
      count.out += points;
      count.outBytes += points * (sizes[k + 1] + numbers);
    }
  }

  /** The last bound of a window of a step at or before a moment, Unix ms. */
  boundAt(step: string, moment: number): number {
    return this.windowed.get(step)?.boundAt(moment) ?? moment;
  }

  /** The first bound of a window of a step after a moment, Unix ms. */
  boundAfter(step: string, moment: number): number {
    return this.windowed.get(step)?.boundAfter(moment) ?? moment;
  }

  /** Up to when the windows of a step are closed, Unix ms. */
  closedUpTo(step: string): number {
    return this.windowed.get(step)?.closedUpTo ?? Number.NEGATIVE_INFINITY;
  }

  /**
   * Closes the windows of a step up to a bound, which lies behind what is closed already, with every point that waited there and is not later.
   *
   * @param closed told of what comes out of the step itself
   * @returns what comes out of the lane, and what has to wait at later steps
   */
  advance(
    step: string,
    due: Batch,
    upTo: number,
    closed: (out: Batch) => void = () => {},
  ): { out: Batch; waiting: Waiting[] } {
    const window = this.windowed.get(step);
    const place = this.steps.findIndex(({ config }) => config.id === step);
    if (!window || place < 0) return { out: due, waiting: [] };
    const out = window.advance(due, upTo, this.dictionary);
    const { count } = this.steps[place];
    count.out += out.points;
    count.outBytes += batchSize(out);
    closed(out);
    return { out, waiting: this.send(out, place + 1) };
  }

  /** Series of a batch that would only give a base to a step, because nothing is known of their totals before. */
  lacking(step: string, batch: Batch): KnownSeries[] {
    const increases = this.windowed.get(step)?.increases;
    return increases ? [...new Set(batch.series())].filter((series) => increases.lacks(series)) : [];
  }

  /** Tells a step what a series added up to before. */
  seed(step: string, series: KnownSeries, base: Base): void {
    this.windowed.get(step)?.increases.seed(seriesText(series), base);
  }

  /** What the steps remember, by their ids. */
  save(): Record<string, WaitState> {
    return Object.fromEntries([...this.windowed].map(([id, window]) => [id, window.save()]));
  }

  /** Points that went in and came out of each step since the lane began. */
  counts(): Record<string, StepCount & { late: number; refused: number }> {
    const own = this.steps.filter(({ config }) => config.type !== "counted");
    return Object.fromEntries(
      own.map(({ config, count }) => {
        const { late = 0, refused = 0 } = this.windowed.get(config.id) ?? {};
        return [config.id, { ...count, late, refused }];
      }),
    );
  }

  /** What a series is called behind the step that ends its way; null where several together give another. */
  behind({ type, step }: Extract<End, { step: number }>, series: KnownSeries): KnownSeries | null {
    const { config, values } = this.steps[step];
    return type === "windowed"
      ? this.windowed.get(config.id)!.targetOf(series, this.dictionary)
      : valued(values!, series, this.dictionary);
  }

  /** What went wrong at steps when they last closed a window, by their ids. */
  problems(): Record<string, string> {
    return Object.fromEntries([...this.windowed].flatMap(([id, { problem }]) => (problem ? [[id, problem]] : [])));
  }
}
