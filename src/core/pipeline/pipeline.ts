import type { LogRecord } from "../log/model";
import { Batch, type SideOutputs } from "../otlp/batch/batch";
import { noSideOutputs } from "../otlp/batch/sideOutputs";
import type { Dictionary } from "../otlp/dictionary";
import type { Signal } from "../otlp/signals";
import type { Span } from "../span/model";
import type { PipelineConfig } from "./config";
import { exportersOf, isQueued } from "./exporters";
import { Lane } from "./lane";
import { type Admitted, RecordLane } from "./recordLane";
import type { CountedStep, Seen, StepCount } from "./routes";
import { isCounting, type RecordStep } from "./steps";
import type { WaitState } from "./steps/definition";

/** One version of the pipeline as it runs: a lane per signal, and the exporters at their ends. */

/** Where what comes out of a lane goes. */
interface Ends {
  stored: boolean;
  /** Ids of exporters with a queue. */
  queued: readonly string[];
}

/** Steps of the other lanes that give metrics. */
export function countedSteps({ traces, logs }: Pick<PipelineConfig, "traces" | "logs">): CountedStep[] {
  return [...traces, ...logs].flatMap((step: RecordStep) =>
    step.on && isCounting(step) ? [{ id: step.id, type: "counted", every: step.every }] : [],
  );
}

function endsOf({ exporters }: PipelineConfig, signal: Signal): Ends {
  const all = exportersOf(exporters, signal);
  return { stored: all.some(({ type }) => type === "store"), queued: all.filter(isQueued).map(({ id }) => id) };
}

export class Pipeline {
  readonly metrics: Lane;
  private readonly traces: RecordLane;
  private readonly logs: RecordLane;
  private readonly ends: Record<Signal, Ends>;
  /** Whether points go straight to the store. */
  private readonly plain: boolean;

  /**
   * @param began when this version begins to run, Unix ms
   * @param closed up to when steps of the version before closed their windows, Unix ms
   */
  constructor(
    private readonly version: number,
    readonly config: PipelineConfig,
    dictionary: Dictionary,
    began: number,
    memory: Readonly<Record<string, WaitState>> = {},
    closed?: number,
  ) {
    this.metrics = new Lane(config.metrics, dictionary, began, memory, countedSteps(config), closed);
    this.traces = new RecordLane(config.traces, dictionary);
    this.logs = new RecordLane(config.logs, dictionary);
    this.ends = {
      metrics: endsOf(config, "metrics"),
      traces: endsOf(config, "traces"),
      logs: endsOf(config, "logs"),
    };
    const { stored, queued } = this.ends.metrics;
    this.plain = stored && queued.length === 0 && !config.metrics.some(({ on }) => on);
  }

  /** Whether a receiver takes a signal. */
  receives(receiver: "otlp" | "scrape", signal: Signal): boolean {
    const { otlp, scrape } = this.config.receivers;
    return receiver === "scrape" ? scrape : otlp.includes(signal);
  }

  /** Sends points through their lane: what is to be stored stays in the batch, all else is put aside with it. */
  admit(batch: Batch): void {
    if (this.plain) return;
    const waiting = this.metrics.admit(batch);
    this.end(batch, { ...noSideOutputs<Batch>(this.version), waiting });
  }

  /** Puts what came out of the lane for metrics where it goes. */
  end(batch: Batch, aside: SideOutputs = noSideOutputs(this.version)): void {
    const { stored, queued } = this.ends.metrics;
    const all = stored ? batch : batch.takeAll();
    const content = queued.length > 0 ? all.sent() : all;
    if (content.points > 0)
      for (const exporter of queued) aside.exports.push({ exporter, content: { signal: "metrics", batch: content } });
    if (aside.waiting.length > 0 || aside.undecided.length > 0 || aside.exports.length > 0) batch.sideOutputs = aside;
  }

  /** Sends spans through their lane. @returns a batch without points that has them aside */
  admitSpans(spans: readonly Span[], now: number): Batch {
    return this.settle(this.traces.admit(spans, now), "traces");
  }

  /** Takes spans further that were decided on. */
  resumeSpans(step: string, spans: readonly Span[], now: number): Batch {
    return this.settle(this.traces.resume(step, spans, now), "traces");
  }

  /** Sends log records through their lane. @returns a batch without points that has them aside */
  admitLogs(records: readonly LogRecord[], now: number): Batch {
    return this.settle(this.logs.admit(records, now), "logs");
  }

  private settle<T extends Span | LogRecord>(admitted: Admitted<T>, signal: "traces" | "logs"): Batch {
    const { stored, queued } = this.ends[signal];
    const aside = noSideOutputs<Batch>(this.version);
    aside.waiting = admitted.counted.filter(({ batch }) => batch.points > 0);
    aside.undecided = admitted.undecided;
    const { out } = admitted;
    if (stored && signal === "traces") aside.spans = out as readonly Span[];
    if (stored && signal === "logs") aside.records = out as readonly LogRecord[];
    if (out.length > 0)
      for (const exporter of queued)
        aside.exports.push({
          exporter,
          content:
            signal === "traces"
              ? { signal, spans: out as readonly Span[] }
              : { signal, records: out as readonly LogRecord[] },
        });
    const batch = new Batch();
    batch.sideOutputs = aside;
    return batch;
  }

  /** What went into each step and came out of it at once: points, spans or records. */
  counts(): Record<string, StepCount> {
    return { ...this.metrics.counts(), ...this.traces.counts(), ...this.logs.counts() };
  }

  takeSeen(): Seen[] {
    return this.metrics.routes.takeSeen();
  }
}
