import type pg from "pg";
import type { Batch } from "@/core/otlp/batch";
import type { Dictionary } from "@/core/otlp/dictionary";
import { Lane, type StepCount } from "@/core/pipeline/lane";
import { livePipeline, PIPELINE_CHANGED } from "@/store/pipeline";
import { writeSample } from "@/store/samples";
import { Tap } from "./tap";

/** Published versions are also looked for this often, where no change was announced. */
const LOOK_EVERY = 5000;

/**
 * The live lane of one thread that receives: every batch goes through one version as a whole, and a new version takes
 * over between two batches.
 */
export class LiveLane {
  private version = 0;
  private lane: Lane | null = null;
  private generation = 0;
  private guard: pg.PoolClient | null = null;
  private timer: NodeJS.Timeout | null = null;
  private reading: Promise<void> | null = null;
  private readonly tap = new Tap();

  constructor(
    private readonly pool: pg.Pool,
    private readonly dictionary: Dictionary,
    private readonly report: (error: unknown) => void,
  ) {}

  /** Reads what is live and goes on following it. @throws where the store is away */
  async start(): Promise<void> {
    await this.read();
    this.timer = setInterval(() => void this.look(), LOOK_EVERY).unref();
    await this.look();
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer);
    this.guard?.release(true);
    this.guard = null;
  }

  /** Sends a batch through the lane: what comes out stays in it, what has to wait is put aside with it. */
  admit(batch: Batch): void {
    this.tap.note(batch);
    const { lane, dictionary } = this;
    if (!lane) return;
    if (this.generation !== dictionary.generation) {
      this.generation = dictionary.generation;
      lane.forgetWays();
    }
    const waiting = lane.admit(batch);
    if (waiting.length > 0) batch.aside = { version: this.version, waiting };
  }

  /** What went into each step of the live version and came out of it at once, in this thread. */
  counts(): Record<string, StepCount> {
    return this.lane?.counts() ?? {};
  }

  private async look(): Promise<void> {
    try {
      if (!this.guard) await this.listen();
      await this.read();
      const sample = this.tap.take();
      if (sample) await writeSample(this.pool, sample);
    } catch (error) {
      this.guard?.release(error as Error);
      this.guard = null;
      this.report(error);
    }
  }

  private async listen(): Promise<void> {
    const guard = await this.pool.connect();
    guard.on("notification", () => void this.read().catch(this.report));
    await guard.query(`LISTEN ${PIPELINE_CHANGED}`);
    this.guard = guard;
  }

  private read(): Promise<void> {
    this.reading ??= this.readLive().finally(() => {
      this.reading = null;
    });
    return this.reading;
  }

  private async readLive(): Promise<void> {
    const { id, config, at } = await livePipeline(this.pool);
    if (id === this.version) return;
    const on = config.metrics.some((step) => step.on);
    const lane = on ? new Lane(config.metrics, this.dictionary, at) : null;
    this.version = id;
    this.lane = lane;
  }
}
