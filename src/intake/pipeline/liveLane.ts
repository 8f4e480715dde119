import type pg from "pg";
import type { LogRecord } from "@/core/log/model";
import type { Batch } from "@/core/otlp/batch/batch";
import type { Dictionary } from "@/core/otlp/dictionary";
import type { Signal } from "@/core/otlp/signals";
import { EMPTY_PIPELINE, type PipelineConfig } from "@/core/pipeline/config";
import { Pipeline } from "@/core/pipeline/pipeline";
import type { StepCount } from "@/core/pipeline/routes";
import { setting } from "@/core/settings/environment";
import type { Span } from "@/core/span/model";
import { HOUR } from "@/core/window/lengths";
import { LIMIT_REMEMBERS, livePipeline, PIPELINE_CHANGED, readSeen, writeSeen } from "@/store/pipeline/pipeline";
import { writeRecordSample, writeSample } from "@/store/pipeline/samples";
import { ArrivalSampler } from "./arrivalSampler";
import { RecordSampler } from "./recordSampler";

/** Published versions are also looked for this often, where no change was announced. */
const LOOK_EVERY = 5000;
/** How often limits are begun anew, ms. */
const SEEN_EVERY = 6 * HOUR;
/** Clocks of processes may differ by this, ms. */
const SEEN_OVERLAP = 30_000;

/**
 * The live pipeline of one thread that receives: every batch goes through one version as a whole, and a new version takes
 * over between two batches.
 */
export class LiveLane {
  private version = 0;
  private pipeline: Pipeline;
  private generation = 0;
  private guard: pg.PoolClient | null = null;
  private timer: NodeJS.Timeout | null = null;
  private reading: Promise<void> = Promise.resolve();
  /** When the series that limits let through were read, all of them and the latest, Unix ms. */
  private seenAll = 0;
  private seenUpTo = 0;
  private handing: NodeJS.Timeout | null = null;
  private readonly sampler = new ArrivalSampler(setting("TIN_SAMPLE_RATE"));
  private readonly recordSampler = new RecordSampler(setting("TIN_SAMPLE_RATE") / 5);

  constructor(
    private readonly pool: pg.Pool,
    private readonly dictionary: Dictionary,
    private readonly report: (error: unknown) => void,
  ) {
    this.pipeline = new Pipeline(0, EMPTY_PIPELINE, dictionary, 0);
  }

  /** Reads what is live and goes on following it. @throws where the store is away */
  async start(): Promise<void> {
    await this.read();
    this.timer = setInterval(() => void this.look(), LOOK_EVERY).unref();
    this.handing = setInterval(() => void this.handOn(), 1000 * setting("TIN_SAMPLE_EVERY")).unref();
    await this.look();
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer);
    if (this.handing) clearInterval(this.handing);
    this.guard?.release(true);
    this.guard = null;
  }

  /** The version that runs; 0: none was ever published. */
  get running(): number {
    return this.version;
  }

  get config(): PipelineConfig {
    return this.pipeline.config;
  }

  /** Whether a receiver takes a signal as the pipeline is now. */
  receives(receiver: "otlp" | "scrape", signal: Signal): boolean {
    return this.pipeline.receives(receiver, signal);
  }

  /** Sends a batch through the lane for metrics: what comes out stays in it, all else is put aside with it. */
  admit(batch: Batch): void {
    this.sampler.note(batch);
    const { pipeline, dictionary } = this;
    if (this.generation !== dictionary.generation) {
      this.generation = dictionary.generation;
      pipeline.metrics.routes.forget();
    }
    pipeline.admit(batch);
  }

  /** Sends spans through their lane. @returns what is to be kept of them */
  admitSpans(spans: readonly Span[]): Batch {
    this.recordSampler.noteSpans(spans);
    return this.pipeline.admitSpans(spans, Date.now());
  }

  /** Sends log records through their lane. @returns what is to be kept of them */
  admitLogs(records: readonly LogRecord[]): Batch {
    this.recordSampler.noteLogs(records);
    return this.pipeline.admitLogs(records, Date.now());
  }

  /** What went into each step of the live version and came out of it at once, in this thread. */
  counts(): Record<string, StepCount> {
    return this.pipeline.counts();
  }

  private async look(): Promise<void> {
    try {
      if (!this.guard) await this.listen();
      await this.read();
    } catch (error) {
      this.guard?.release(error as Error);
      this.guard = null;
      this.report(error);
    }
  }

  /** Hands on what was put aside to try drafts on. */
  private async handOn(): Promise<void> {
    try {
      const sample = this.sampler.take();
      if (sample) await writeSample(this.pool, sample);
      for (const records of this.recordSampler.take()) await writeRecordSample(this.pool, records);
    } catch (error) {
      this.report(error);
    }
  }

  private async listen(): Promise<void> {
    const guard = await this.pool.connect();
    guard.on("notification", () => void this.read().catch(this.report));
    await guard.query(`LISTEN ${PIPELINE_CHANGED}`);
    this.guard = guard;
  }

  /** Reads what is live; what is asked while it is being read is read again afterwards. */
  private read(): Promise<void> {
    this.reading = this.reading.then(
      () => this.readLive(),
      () => this.readLive(),
    );
    return this.reading;
  }

  private async readLive(): Promise<void> {
    const { id, config, at } = await livePipeline(this.pool);
    const limits = config.metrics.some(({ type, on }) => type === "limit" && on);
    if (id !== this.version) {
      const pipeline = new Pipeline(id, config, this.dictionary, at);
      if (limits) await this.readAllSeen(pipeline);
      this.version = id;
      this.pipeline = pipeline;
    } else if (limits) {
      const seen = this.pipeline.takeSeen();
      if (seen.length > 0) await writeSeen(this.pool, seen);
      if (Date.now() - this.seenAll > SEEN_EVERY) await this.readAllSeen(this.pipeline);
      else {
        const since = this.seenUpTo - SEEN_OVERLAP;
        this.seenUpTo = Date.now();
        this.pipeline.metrics.routes.addSeen(await readSeen(this.pool, since));
      }
    }
  }

  /** Begins limits anew with the series that were in use lately: what came and went gives its place to others. */
  private async readAllSeen({ metrics }: Pipeline): Promise<void> {
    this.seenAll = this.seenUpTo = Date.now();
    metrics.routes.forgetSeen();
    metrics.routes.addSeen(await readSeen(this.pool, this.seenAll - LIMIT_REMEMBERS));
  }
}
