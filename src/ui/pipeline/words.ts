import type { Signal } from "@/core/otlp/signals";
import type { ExporterConfig, ExporterType } from "@/core/pipeline/exporters";
import { exporterSchema } from "@/core/pipeline/exporters";
import { STEP_TYPES, type StepConfig, stepSchema } from "@/core/pipeline/metricSteps";
import type { Fold } from "@/core/pipeline/parts";
import {
  LOG_STEP_TYPES,
  logStepSchema,
  type RecordStep,
  SPAN_STEP_TYPES,
  spanStepSchema,
} from "@/core/pipeline/recordSteps";

/** What steps are called, and how a new one begins. */

export type AnyStep = StepConfig | RecordStep;
type AnyType = AnyStep["type"];

export const STEP_WORDS: Record<AnyType, { name: string; does: string }> = {
  drop: { name: "drop", does: "what matches goes no further" },
  keep: { name: "keep", does: "only what matches goes further" },
  remove: { name: "remove attributes", does: "series that differ in nothing else meet" },
  fold: { name: "fold values", does: "ids vanish into a pattern" },
  merge: { name: "merge series", does: "across attributes, into sum, mean, or how many" },
  slow: { name: "slow down", does: "fewer points, the same totals" },
  limit: { name: "limit series", does: "further ones go to an overflow series" },
  rename: { name: "rename an attribute", does: "the same value under another name" },
  copy: { name: "copy an attribute", does: "the same value under a second name" },
  set: { name: "set an attribute", does: "to one value" },
  hash: { name: "hash attributes", does: "told apart, but not told" },
  redact: { name: "redact attributes", does: "what a pattern finds becomes ***" },
  metric: { name: "rename a metric", does: "the same points under another name" },
  unit: { name: "change the unit", does: "values and unit together" },
  coarsen: { name: "coarsen histograms", does: "fewer buckets" },
  sample: { name: "sample", does: "a share of traces, the same ones everywhere" },
  tail: { name: "keep whole traces", does: "those that failed or took long, and a share of the others" },
  spans: { name: "metrics from spans", does: "how many, how many failed, how long they took" },
  records: { name: "a metric from log records", does: "how many, or a number in them" },
  parse: { name: "parse texts", does: "attributes found in the text of a record" },
  compute: { name: "compute a figure", does: "a gauge from a reading of each window" },
};

export const FOLD_WORDS: Record<Fold, string> = {
  numbers: "numbers",
  uuids: "UUIDs",
  hex: "hex",
  emails: "e-mail addresses",
  hosts: "addresses to hosts",
  paths: "addresses to paths",
};

export const SIGNAL_WORDS: Record<Signal, { one: string; many: string }> = {
  metrics: { one: "point", many: "points" },
  traces: { one: "span", many: "spans" },
  logs: { one: "record", many: "records" },
};

export const EXPORTER_WORDS: Record<ExporterType, { name: string; does: string }> = {
  store: { name: "the store of Tin Ladder", does: "what pages and readings show" },
  otlp: { name: "another backend", does: "over OTLP/HTTP, with a queue that survives" },
  openmetrics: { name: "a page to be scraped", does: "the newest values as OpenMetrics text" },
  file: { name: "files", does: "OTLP/JSON lines on this machine" },
};

const BLANKS: Partial<Record<AnyType, object>> = {
  rename: { from: "attribute", to: "name" },
  copy: { from: "attribute", to: "name" },
  hash: { attributes: ["attribute"] },
  set: { attribute: "attribute", value: "value" },
  remove: { attributes: ["attribute"] },
  redact: { attributes: ["attribute"], pattern: "pattern" },
  fold: { attribute: "http.route", folds: ["numbers", "uuids"] },
  metric: { to: "name" },
  unit: { to: "ms" },
  merge: { attributes: ["service.instance.id"] },
  limit: { series: 1000 },
  sample: { share: 0.1 },
  records: { to: "log.records" },
  compute: { reading: "count of errors / count of requests", to: "error.share" },
};

/** Steps that a lane may have. */
export const LANE_STEPS: Record<Signal, readonly AnyType[]> = {
  metrics: STEP_TYPES,
  traces: SPAN_STEP_TYPES,
  logs: LOG_STEP_TYPES,
};

/** What a condition that matches little begins with. */
const CONDITIONS: Record<Signal, string> = {
  metrics: 'metric is "name"',
  traces: 'span.name is "name"',
  logs: 'log.severity is "DEBUG"',
};

const SCHEMAS = { metrics: stepSchema, traces: spanStepSchema, logs: logStepSchema };

function freeId(type: string, taken: ReadonlySet<string>): string {
  let number = 1;
  while (taken.has(`${type}-${number}`)) number++;
  return `${type}-${number}`;
}

/** A new step of a type, with an id that nothing else has. */
export function newStep(signal: Signal, type: AnyType, taken: ReadonlySet<string>): AnyStep {
  const where = type === "drop" || type === "keep" ? CONDITIONS[signal] : "";
  return SCHEMAS[signal].parse({ id: freeId(type, taken), type, where, ...BLANKS[type] }) as AnyStep;
}

/** A new exporter of a type, with an id that nothing else has. */
export function newExporter(type: ExporterType, taken: ReadonlySet<string>): ExporterConfig {
  const url = type === "otlp" ? { url: "http://localhost:4395" } : {};
  return exporterSchema.parse({ id: type === "store" ? "store" : freeId(type, taken), type, ...url });
}
