import { z } from "zod";
import type { Attributes, Layout, MetricIdentity, PointSet } from "../../metric/model";
import type { KnownSeries } from "../../otlp/dictionary";
import type { Signal } from "../../otlp/signals";
import type { ComputeState } from "../compute";
import type { CountRecord } from "../derived";
import { common, LEVEL_HOWS, seconds } from "../parts";
import type { Passing, TelemetryRecord } from "../records";
import type { Waits } from "../waits";
import type { WindowedSettings, WindowedState } from "../windowed";
import type { Shape } from "./attributes";
import { choice, type Fragment, number } from "./sentence";

/** What a step is: all that is known of one kind of step, in one place. */

/** What a step remembers where points wait, as plain data. */
export type WaitState = WindowedState | ComputeState;

/** Where series go that meet at a step. */
export interface Targets {
  /** The series as the step names it. */
  shaped: (series: KnownSeries) => KnownSeries;
  /** The series of what is past a limit. */
  overflow: (series: KnownSeries) => KnownSeries;
}

/** A change of values, point by point. */
export interface ValueChange {
  /** Whether points of a metric are changed at all. */
  changes: (identity: MetricIdentity) => boolean;
  /** The unit that they have behind it; that of the metric where this is left out. */
  unit?: string;
  /** Worked out once for a metric: what becomes of a point. */
  point: (identity: MetricIdentity) => (set: PointSet, row: number) => { layout: Layout; values: number[] };
  /** By how much an exemplar's value is multiplied. */
  factor: (identity: MetricIdentity) => number;
}

/** What a step does; each part only where it does that. */
export interface Effects<C> {
  /** Which of what comes goes further: only what matches, or only what does not. */
  lets?: "matching" | "others";
  /** What it makes of attributes, of series and records alike. */
  shape?: (step: C) => Shape;
  /** Attributes whose values are shown before and after. */
  tried?: (step: C) => readonly string[];
  /** Whether it leaves only a part of what there was: what is counted behind it is a part, too. */
  samples?: boolean;

  /** Of the lane for metrics. A new name for the metric; "" for the one that it has. */
  renames?: (step: C) => string;
  /** Only series of these metrics come to it. */
  reads?: (step: C) => ReadonlySet<string>;
  /** Whether what it is given goes on as well, beside what it makes. */
  originals?: (step: C) => boolean;
  /** When series meet here: always, where the change makes several one, or past so many of a metric. */
  windowed?: "always" | "by change" | ((step: C) => number);
  /** Whether an attribute may be new: one that was not there cannot have told series apart. */
  adds?: boolean;
  /** How those that meet become one. */
  window?: (step: C, to: Targets) => WindowedSettings;
  /** A way of its own to work on windows. */
  waits?: (step: C, since: number, saved: WaitState | undefined, closed: number) => Waits<WaitState>;
  /** Names of metrics that it gives its points. */
  makes?: (step: C) => string;
  /** Whether one name holds both what went in and what came out, so that it counts twice. */
  doubles?: (step: C) => boolean;
  /** Changes values, and maybe the unit. */
  values?: (step: C) => ValueChange;
  /** Why points of a metric go through as they are, though they came; null where they do not. */
  unchanged?: (step: C, identity: MetricIdentity) => string | null;

  /** Of the lanes for records: what becomes of one; null where it goes no further. */
  record?: (step: C) => <T extends TelemetryRecord>(one: Passing<T>) => Passing<T> | null;
  /** Counts records into metrics. */
  counts?: (step: C) => (one: Passing<TelemetryRecord>, count: CountRecord) => void;
  /** Whether spans wait here until their trace is decided on. */
  waitsForTrace?: boolean;
}

/** What a step says of itself. */
interface Words<C> {
  /** In the list of steps to add. */
  name: string;
  does: string;
  /** Behind "where …". */
  sentence: (step: C) => readonly Fragment[];
  /** In the documentation. */
  documented: string;
}

type Base<T extends string, S extends z.ZodRawShape> = typeof common & { type: z.ZodLiteral<T> } & S;
type Configured<T extends string, S extends z.ZodRawShape> = z.output<z.ZodObject<Base<T, S>>>;

interface Parts<T extends string, S extends z.ZodRawShape, M extends z.ZodRawShape, L extends Signal>
  extends Effects<Configured<T, S>>,
    Words<Configured<T, S>> {
  type: T;
  /** Lanes that it may stand in. */
  lanes: readonly L[];
  settings: S;
  /** Settings that it has in the lane for metrics only. */
  onMetrics?: M;
  /** What a new one begins with, where that is not the default. */
  blank?: object;
  /** What no setting alone can say. */
  check?: (step: Configured<T, S>, context: z.RefinementCtx) => void;
}

/** A kind of step, with the schemas of its settings. */
export interface Definition<
  T extends string = string,
  S extends z.ZodRawShape = z.ZodRawShape,
  M extends z.ZodRawShape = z.ZodRawShape,
  L extends Signal = Signal,
> extends Parts<T, S, M, L> {
  metricSchema: z.ZodObject<Base<T, S> & M>;
  recordSchema: z.ZodObject<Base<T, S>>;
}

/** Defines a kind of step. */
export function defineStep<
  const T extends string,
  S extends z.ZodRawShape,
  const L extends Signal,
  M extends z.ZodRawShape = Record<never, never>,
>(parts: Parts<T, S, M, L>): Definition<T, S, M, L> {
  const base = { ...common, type: z.literal(parts.type), ...parts.settings } as Base<T, S>;
  const checked = <O extends z.ZodRawShape>(schema: z.ZodObject<O>) =>
    parts.check
      ? (schema.superRefine((step, context) =>
          parts.check!(step as unknown as Configured<T, S>, context),
        ) as z.ZodObject<O>)
      : schema;
  return {
    ...parts,
    metricSchema: checked(z.object({ ...base, ...parts.onMetrics } as Base<T, S> & M)),
    recordSchema: checked(z.object(base)),
  };
}

/** How values of gauges that meet are said. */
export const LEVEL_WORDS = {
  sum: "added up",
  mean: "averaged",
  min: "the least",
  max: "the greatest",
  last: "the last",
} as const;

/** For steps that may bring series together in the lane for metrics: how their gauges meet, in windows of how many seconds. */
export const windowedSettings = { gauges: z.enum(LEVEL_HOWS).default("sum"), every: seconds.default(10) };

type WindowedFields = z.output<z.ZodObject<typeof windowedSettings>>;

/** How series meet that a change of attributes made one. */
export function windowedByChange(step: object, { shaped }: Targets): WindowedSettings {
  const { every, gauges } = step as WindowedFields;
  return { every: every * 1000, within: "last", across: gauges, target: shaped };
}

/** What is said of that; nothing in the lanes for records, where nothing meets. */
export function windowedSentence(step: object): Fragment[] {
  if (!("gauges" in step)) return [];
  return [
    {
      slot: "beside",
      fragments: [
        " (series that then are the same meet: counters and histograms add up, gauges are ",
        choice("gauges", "gauges that meet", LEVEL_WORDS),
        ", every ",
        number("every", "window in seconds"),
        " s)",
      ],
    },
  ];
}

/** What a change took away from a series. */
export function removedFrom(before: KnownSeries["identity"], after: KnownSeries["identity"]): [string, unknown][] {
  const gone = (a: Attributes, b: Attributes) => Object.entries(a).filter(([name]) => !Object.hasOwn(b, name));
  return [...gone(before.resource, after.resource), ...gone(before.attributes, after.attributes)].sort(([a], [b]) =>
    a < b ? -1 : 1,
  );
}
