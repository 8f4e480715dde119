import { z } from "zod";
import { SIGNALS, type Signal } from "../otlp/signals";

/** Where the lanes end. */

const signals = z.array(z.enum(SIGNALS)).min(1, "at least one signal is expected").max(SIGNALS.length);
const id = z.string().regex(/^[a-z0-9-]{1,40}$/, "an id of small letters, digits and dashes is expected");
const common = { id, on: z.boolean().default(true), signals: signals.default([...SIGNALS]) };
const header = z.string().regex(/^[A-Za-z0-9-]{1,100}$/, "the name of an HTTP header is expected");
const address = z
  .string()
  .max(1000)
  .superRefine((text, context) => {
    const url = URL.canParse(text) ? new URL(text) : null;
    if (!url || (url.protocol !== "http:" && url.protocol !== "https:"))
      context.addIssue({ code: "custom", message: "an address that begins with http:// or https:// is expected" });
    else if (url.username || url.password)
      context.addIssue({
        code: "custom",
        message: "leave the name and password out of the address; keep them as a secret header",
      });
  });

const exporters = {
  /** Our own store. */
  store: z.object({ ...common, type: z.literal("store") }),
  /** Another backend, over OTLP/HTTP. */
  otlp: z.object({
    ...common,
    type: z.literal("otlp"),
    /** Without /v1/…. */
    url: address,
    encoding: z.enum(["protobuf", "json"]).default("protobuf"),
    gzip: z.boolean().default(true),
    headers: z.record(header, z.string().max(4000)).default({}),
    /** Headers whose values are kept as secrets. */
    secrets: z.array(header).max(20).default([]),
    temporality: z.enum(["as it comes", "delta", "cumulative"]).default("as it comes"),
    /** Points, spans or records of one request, and how long it waits for more, s. */
    batch: z.number().int().min(1).max(50_000).default(5000),
    wait: z.number().min(0).max(60).default(1),
    /** How long an answer may take, s. */
    timeout: z.number().min(0.1).max(120).default(10),
    /** What the queue may hold, MB. */
    most: z.number().min(1).max(10_000).default(64),
    /** Where its copy of a metric can be read again, as OTLP/JSON lines; "" where it cannot. */
    copy: z.union([z.literal(""), address]).default(""),
  }),
  /** A page of OpenMetrics text to be scraped, at /exports/ID of the intake. */
  openmetrics: z.object({
    ...common,
    signals: z.array(z.literal("metrics")).length(1).default(["metrics"]),
    type: z.literal("openmetrics"),
    /** Whether everybody who reaches the intake may read it; else it needs its token. */
    open: z.boolean().default(false),
    most: z.number().min(1).max(10_000).default(64),
  }),
  /** Files of OTLP/JSON lines, one request to a line. */
  file: z.object({
    ...common,
    type: z.literal("file"),
    /** Size at which another file is begun, MB, and how many are kept. */
    size: z.number().min(0.001).max(10_000).default(100),
    files: z.number().int().min(1).max(1000).default(10),
    most: z.number().min(1).max(10_000).default(64),
  }),
} as const;

export const exporterSchema = z.discriminatedUnion("type", [
  exporters.store,
  exporters.otlp,
  exporters.openmetrics,
  exporters.file,
]);
export type ExporterConfig = z.infer<typeof exporterSchema>;
export type ExporterType = ExporterConfig["type"];
/** An exporter with a queue of its own. */
export type QueuedExporter = Exclude<ExporterConfig, { type: "store" }>;

export const STORE: ExporterConfig = { id: "store", type: "store", on: true, signals: [...SIGNALS] };

/** The exporters that take a signal. */
export function exportersOf(all: readonly ExporterConfig[], signal: Signal): ExporterConfig[] {
  return all.filter(({ on, signals: some }) => on && (some as readonly Signal[]).includes(signal));
}

export function isQueued(exporter: ExporterConfig): exporter is QueuedExporter {
  return exporter.type !== "store";
}
