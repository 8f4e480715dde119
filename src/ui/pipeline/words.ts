import type { Signal } from "@/core/otlp/signals";
import type { ExporterConfig, ExporterType } from "@/core/pipeline/exporters";
import { exporterSchema } from "@/core/pipeline/exporters";
import type { Fold } from "@/core/pipeline/parts";
import {
  type AnyStep,
  type AnyStepType,
  kindOf,
  logStepSchema,
  spanStepSchema,
  stepSchema,
} from "@/core/pipeline/steps";

/** What exporters and signals are called, and how a new step begins. */

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
export function newStep(signal: Signal, type: AnyStepType, taken: ReadonlySet<string>): AnyStep {
  const { lets, blank } = kindOf({ type });
  // One that lets only some things through, or nothing, begins with a condition that matches little.
  const where = lets ? CONDITIONS[signal] : "";
  return SCHEMAS[signal].parse({ id: freeId(type, taken), type, where, ...blank }) as AnyStep;
}

/** A new exporter of a type, with an id that nothing else has. */
export function newExporter(type: ExporterType, taken: ReadonlySet<string>): ExporterConfig {
  const url = type === "otlp" ? { url: "http://localhost:4395" } : {};
  return exporterSchema.parse({ id: type === "store" ? "store" : freeId(type, taken), type, ...url });
}
