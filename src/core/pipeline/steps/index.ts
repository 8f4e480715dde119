import { z } from "zod";
import type { Signal } from "../../otlp/signals";
import { coarsen } from "./coarsen";
import { compute } from "./compute";
import { copy } from "./copy";
import type { Effects } from "./definition";
import { drop } from "./drop";
import { fold } from "./fold";
import { hash } from "./hash";
import { keep } from "./keep";
import { limit } from "./limit";
import { merge } from "./merge";
import { metric } from "./metric";
import { parse } from "./parse";
import { records } from "./records";
import { redact } from "./redact";
import { remove } from "./remove";
import { rename } from "./rename";
import { sample } from "./sample";
import type { Fragment } from "./sentence";
import { set } from "./set";
import { slow } from "./slow";
import { spans } from "./spans";
import { tail } from "./tail";
import { unit } from "./unit";

/**
 * Every kind of step, in the order in which they are offered. A kind is one file, and one line here: from it follow the
 * schemas, what lanes do, what drafts tell, the sentence on the screen, and the documentation.
 *
 * Conditions are over attributes; of metrics also over `metric` and `unit`, of spans over `span.name`, `span.kind`,
 * `span.status`, `span.duration` (seconds) and `span.root`, of log records over `log.body`, `log.severity` and
 * `log.severity.number`, as if they were.
 */
export const STEPS = [
  keep,
  drop,
  rename,
  copy,
  hash,
  set,
  remove,
  redact,
  fold,
  metric,
  unit,
  merge,
  slow,
  limit,
  coarsen,
  compute,
  sample,
  tail,
  spans,
  parse,
  records,
] as const;

type Each = (typeof STEPS)[number];
type SchemaOn<S extends Signal, D> = D extends {
  lanes: readonly (infer L)[];
  metricSchema: infer M;
  recordSchema: infer R;
}
  ? S extends L
    ? S extends "metrics"
      ? M
      : R
    : never
  : never;
type Configs<S extends Signal> = SchemaOn<S, Each> extends infer Z extends z.ZodType ? z.output<Z> : never;
type Inputs<S extends Signal> = SchemaOn<S, Each> extends infer Z extends z.ZodType ? z.input<Z> : never;

/** A step of the lane for metrics. */
export type StepConfig = Configs<"metrics">;
export type StepType = StepConfig["type"];
export type SpanStep = Configs<"traces">;
export type LogStep = Configs<"logs">;
/** A step of the lanes for traces and logs. */
export type RecordStep = SpanStep | LogStep;
export type AnyStep = StepConfig | RecordStep;
export type AnyStepType = AnyStep["type"];

type Of<T extends AnyStepType, C = AnyStep> = C extends { type: infer U } ? (U extends T ? C : never) : never;
export type TailStep = Of<"tail", SpanStep>;
/** A step that counts records. */
export type CountingConfig = Of<"spans" | "records">;

const lanesOf = ({ lanes }: Each): readonly Signal[] => lanes;

/** The kinds that may stand in a lane. */
export const STEPS_OF: Readonly<Record<Signal, readonly Each[]>> = {
  metrics: STEPS.filter((step) => lanesOf(step).includes("metrics")),
  traces: STEPS.filter((step) => lanesOf(step).includes("traces")),
  logs: STEPS.filter((step) => lanesOf(step).includes("logs")),
};

function schemaOf<S extends Signal>(signal: S): z.ZodType<Configs<S>, Inputs<S>> {
  const all = STEPS_OF[signal].map((step) => (signal === "metrics" ? step.metricSchema : step.recordSchema));
  return z.discriminatedUnion("type", all as unknown as [typeof keep.recordSchema]) as unknown as z.ZodType<
    Configs<S>,
    Inputs<S>
  >;
}

export const stepSchema = schemaOf("metrics");
export const spanStepSchema = schemaOf("traces");
export const logStepSchema = schemaOf("logs");

/** A kind of step without its type: what it does, and what it says of itself. */
export interface Kind extends Effects<AnyStep> {
  type: AnyStepType;
  name: string;
  does: string;
  documented: string;
  blank?: object;
  sentence: (step: AnyStep) => readonly Fragment[];
}

const KINDS = new Map(STEPS.map((step) => [step.type as AnyStepType, step as unknown as Kind]));

/** What kind a step is of. Its parts are to be given that step. */
export function kindOf({ type }: { type: AnyStepType }): Kind {
  return KINDS.get(type)!;
}

/** Whether a step counts records into metrics. */
export function isCounting(step: RecordStep): step is CountingConfig {
  return kindOf(step).counts !== undefined;
}
