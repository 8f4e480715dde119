import type { Attributes } from "@/core/metric/model";
import { Absences } from "@/core/otlp/absences";
import { Batch } from "@/core/otlp/batch/batch";
import type { Dictionary } from "@/core/otlp/dictionary";
import type { Signal } from "@/core/otlp/signals";
import type { StepCount } from "@/core/pipeline/routes";
import type { JobReport } from "@/store/jobs/repeatJob";
import { OWN_SERVICE } from "@/store/registry/catalogue";
import type { ExportReport } from "./export/runner";
import type { CommitQueue } from "./receive/queue";

/** What the intake tells of itself: written into the store like anyone's metrics, under the service `tin-ladder`. */

const EVERY = 15_000;

const EXPORTED = {
  metrics: { name: "otel.sdk.exporter.metric_data_point.exported", unit: "{data_point}" },
  traces: { name: "otel.sdk.exporter.span.exported", unit: "{span}" },
  logs: { name: "otel.sdk.exporter.log.exported", unit: "{log_record}" },
} as const;

/** What steps count: by which way, and with what it is told. */
const AT_STEPS = [
  { field: "in", way: "in", of: "points" },
  { field: "out", way: "out", of: "points" },
  { field: "late", way: "late", of: "points" },
  { field: "refused", way: "refused", of: "points" },
  { field: "inBytes", way: "in", of: "bytes" },
  { field: "outBytes", way: "out", of: "bytes" },
] as const;
const OF_STEPS = {
  points: { name: "tin.pipeline.points", unit: "{point}", description: "Points at steps of the pipeline" },
  bytes: { name: "tin.pipeline.bytes", unit: "By", description: "About how many bytes of OTLP steps took and gave" },
} as const;

type Instrument = "counter" | "gauge";

/** A running count or a level with its attributes. */
interface Value {
  instrument: Instrument;
  name: string;
  unit: string;
  description: string;
  attributes: Attributes;
  value: number;
}

export class OwnMetrics {
  private readonly values = new Map<string, Value>();
  private readonly began = Date.now();
  private timer: NodeJS.Timeout | null = null;
  private readonly absences: Absences;

  /** @param instance what tells this process from others */
  constructor(
    private readonly dictionary: Dictionary,
    private readonly queue: CommitQueue,
    private readonly instance: string,
    private readonly steps: () => Record<string, StepCount> = () => ({}),
    /** Whether it speaks for the process, or only for what its thread does. */
    private readonly ofProcess = true,
  ) {
    this.absences = new Absences(dictionary);
  }

  private at(instrument: Instrument, name: string, unit: string, description: string, attributes: Attributes): Value {
    const key = JSON.stringify([name, attributes]);
    let value = this.values.get(key);
    if (!value) {
      value = { instrument, name, unit, description, attributes, value: 0 };
      this.values.set(key, value);
    }
    return value;
  }

  /** A request was answered. */
  answered(signal: Signal, status: number, accepted: number, rejected: number): void {
    this.at("counter", "tin.intake.requests", "{request}", "Requests answered", { status }).value++;
    const points = (outcome: string) =>
      signal === "metrics"
        ? this.at("counter", "tin.intake.points", "{point}", "Points received", { outcome })
        : this.at("counter", "tin.intake.records", "{record}", "Spans and log records received", { signal, outcome });
    points("accepted").value += accepted;
    points("rejected").value += rejected;
  }

  /** An exporter got rid of something (OpenTelemetry semantic conventions, "OpenTelemetry SDK metrics"). */
  exported({ exporter, type, signal, items, error }: ExportReport): void {
    const { name, unit } = EXPORTED[signal];
    this.at("counter", name, unit, "What exporters sent, or failed to", {
      "otel.component.name": exporter,
      "otel.component.type": type === "otlp" ? "otlp_http_exporter" : `${type}_exporter`,
      ...(error === null ? {} : { "error.type": error }),
    }).value += items;
  }

  /** A job of upkeep has gone through. */
  upkeep({ job, took, done, backlog, waiting, failed }: JobReport): void {
    const attributes = { job };
    this.at("counter", "tin.upkeep.done", "{task}", "Pieces of upkeep done", attributes).value += done;
    this.at("counter", "tin.upkeep.failures", "{pass}", "Passes of upkeep that failed", attributes).value += failed
      ? 1
      : 0;
    this.at("gauge", "tin.upkeep.duration", "s", "How long the last pass took", attributes).value = took / 1000;
    if (failed) return;
    this.at("gauge", "tin.upkeep.backlog", "{task}", "Pieces of upkeep that wait", attributes).value = backlog;
    this.at("gauge", "tin.upkeep.waiting", "s", "For how long the oldest piece waits", attributes).value =
      waiting / 1000;
  }

  /** Begins to write, every so often. */
  start(): void {
    this.timer = setInterval(() => {
      // Where the store is away, the next turn says how things are then.
      this.write().catch(() => {});
    }, EVERY).unref();
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer);
  }

  private noteProcess(): void {
    this.at("gauge", "tin.intake.waiting", "{point}", "Points that wait to be written", {}).value = this.queue.backlog;
    this.at("gauge", "process.memory.usage", "By", "Memory in use by the process", {}).value =
      process.memoryUsage().rss;
  }

  /** What a lane counted before another took its place. */
  private lastSteps: Record<string, StepCount> = {};

  private noteSteps(): void {
    const now = this.steps();
    for (const [step, count] of Object.entries(now)) {
      for (const { field, way, of } of AT_STEPS) {
        const passed = count[field] ?? 0;
        if (passed === 0 && (way === "late" || way === "refused")) continue;
        const before = this.lastSteps[step]?.[field] ?? 0;
        const { name, unit, description } = OF_STEPS[of];
        const at = this.at("counter", name, unit, description, { step, way });
        at.value += passed >= before ? passed - before : passed;
      }
    }
    this.lastSteps = structuredClone(now);
  }

  private async write(): Promise<void> {
    if (this.ofProcess) this.noteProcess();
    this.noteSteps();
    if (this.values.size === 0) return;
    const batch = new Batch();
    const timeMs = Date.now();
    const resource = { "service.name": OWN_SERVICE, "service.instance.id": this.instance };
    for (const { instrument, name, unit, description, attributes, value } of this.values.values()) {
      const counts = instrument === "counter";
      const temporality = counts ? "cumulative" : "none";
      const metric = this.dictionary.metric(
        { name, kind: counts ? "sum" : "gauge", unit, temporality, monotonic: counts },
        description,
      );
      const series = this.dictionary.series(metric, {
        resource,
        scope: { name: OWN_SERVICE, version: "" },
        attributes,
      });
      batch.number(series, { timeMs, timeNs: 0, startMs: counts ? this.began : 0, startNs: 0, flags: 0 }, value);
    }
    const durable = this.absences.fill(batch);
    await this.queue.submit(batch);
    durable();
  }
}
