import type { BlockList } from "node:net";
import type pg from "pg";
import { itemsOf, type Outgoing } from "@/core/otlp/batch";
import { Dictionary } from "@/core/otlp/dictionary";
import { packBatch, unpackBatch } from "@/core/pipeline/block";
import type { QueuedExporter } from "@/core/pipeline/exporters";
import { Page } from "@/core/pipeline/page";
import { TemporalityChange, type TemporalityState } from "@/core/pipeline/temporality";
import { transaction } from "@/store/connect";
import { openExporterSecrets } from "@/store/exporterSecrets";
import {
  addToStatus,
  dropBlocks,
  noteAttempt,
  oldestBlocks,
  type QueuedBlock,
  readExporterMemory,
  unpackBlocks,
  writeExporterMemory,
} from "@/store/exports";
import { backoff } from "./backoff";
import { appendToFile } from "./file";
import { type OtlpExporter, type Outcome, sendOtlp } from "./request";
import { cut } from "./split";

/** How often a queue is looked at, ms. */
const LOOK_EVERY = 500;
/** How often a page is made anew, ms. */
const PAGE_EVERY = 3000;
/** Items that a file or a page takes at once. */
const MOST_ITEMS = 50_000;
/** Series after which an exporter's dictionary is begun afresh. */
const MOST_SERIES = 200_000;

/** What an exporter remembers. */
interface Memory {
  change?: TemporalityState;
  /** What is on its page: a block, in base64. */
  points?: string;
}

/** What is told of an exporter's work. */
export interface ExportReport {
  exporter: string;
  type: string;
  signal: Outgoing["signal"];
  items: number;
  /** Why they were not taken; null where they were. */
  error: string | null;
}

export interface RunnerParts {
  pool: pg.Pool;
  allowed: BlockList;
  report: (error: unknown) => void;
  told: (report: ExportReport) => void;
}

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

/**
 * Empties the queue of one exporter, block by block and in order. A block leaves the queue in one transaction with what
 * the exporter remembers of it, after the other side took it: whoever dies in between sends it once more.
 */
export class Runner {
  private stopped = false;
  private failures = 0;
  private dictionary = new Dictionary();
  /** Resolves once it does nothing any more. */
  readonly ended: Promise<void>;

  /** Begins at once. */
  constructor(
    private readonly parts: RunnerParts,
    readonly config: QueuedExporter,
  ) {
    this.ended = this.run();
  }

  stop(): void {
    this.stopped = true;
  }

  private async run(): Promise<void> {
    while (!this.stopped) {
      let wait = LOOK_EVERY;
      try {
        wait = await this.turn();
      } catch (error) {
        this.parts.report(error);
        wait = backoff(++this.failures, null, Math.random());
      }
      if (wait > 0) await pause(wait);
    }
  }

  /** Sends what is due. @returns how long to wait for the next turn, ms */
  private async turn(): Promise<number> {
    const { pool } = this.parts;
    const { config } = this;
    const most = config.type === "otlp" ? config.batch : MOST_ITEMS;
    const blocks = await oldestBlocks(pool, config.id, most);
    if (blocks.length === 0) return LOOK_EVERY;
    const items = blocks.reduce((sum, block) => sum + block.items, 0);
    if (config.type === "otlp") {
      const ready = items >= most || Date.now() - blocks[0].at >= config.wait * 1000;
      return ready ? this.send(config, blocks) : Math.min(LOOK_EVERY, config.wait * 1000);
    }
    if (this.dictionary.size > MOST_SERIES) this.dictionary = new Dictionary();
    const content = await unpackBlocks(blocks, this.dictionary);
    if (config.type === "file") {
      await appendToFile(config, content);
      await this.settle(blocks, content, { refused: 0, message: "" });
      return 0;
    }
    await this.show(blocks, content);
    return PAGE_EVERY;
  }

  private async send(config: OtlpExporter, blocks: readonly QueuedBlock[]): Promise<number> {
    const { pool, allowed } = this.parts;
    if (this.dictionary.size > MOST_SERIES) this.dictionary = new Dictionary();
    const content = await unpackBlocks(blocks, this.dictionary);
    let going: Outgoing = content;
    let memory: Memory | undefined;
    if (content.signal === "metrics" && config.temporality !== "as it comes") {
      const saved = ((await readExporterMemory(pool, config.id)) ?? {}) as Memory;
      const change = new TemporalityChange(config.temporality, blocks[0].at, saved.change);
      going = { signal: "metrics", batch: change.change(content.batch, this.dictionary) };
      memory = { change: change.save() };
    }
    const secrets = await openExporterSecrets(pool, config.id);
    let refused = 0;
    let message = "";
    for (const part of cut(going, config.batch)) {
      const outcome: Outcome = await sendOtlp(config, secrets, part, allowed);
      if (outcome.type === "later") return this.later(outcome.reason, outcome.after);
      if (outcome.type === "refused") {
        refused += itemsOf(part);
        message = outcome.reason;
      } else {
        refused += outcome.refused;
        message ||= outcome.message;
      }
    }
    await this.settle(blocks, content, { refused, message }, memory);
    return 0;
  }

  private async later(reason: string, after: number | null): Promise<number> {
    const wait = backoff(++this.failures, after, Math.random());
    const now = Date.now();
    await noteAttempt(this.parts.pool, this.config.id, now, { failure: reason, retryAt: now + wait });
    return wait;
  }

  private async show(blocks: readonly QueuedBlock[], content: Outgoing): Promise<void> {
    const { pool } = this.parts;
    const saved = ((await readExporterMemory(pool, this.config.id)) ?? {}) as Memory;
    const before = saved.points
      ? unpackBatch(new Uint8Array(Buffer.from(saved.points, "base64")), this.dictionary)
      : undefined;
    const page = new Page(this.dictionary, blocks[0].at, saved.change, before);
    if (content.signal === "metrics") page.take(content.batch);
    const points = Buffer.from(packBatch(page.points())).toString("base64");
    await this.settle(blocks, content, { refused: 0, message: "" }, { change: page.save(), points });
  }

  /** Takes blocks out of the queue, with what has to be remembered of them. */
  private async settle(
    blocks: readonly QueuedBlock[],
    content: Outgoing,
    { refused, message }: { refused: number; message: string },
    memory?: Memory,
  ): Promise<void> {
    const { pool, told } = this.parts;
    const { id, type } = this.config;
    const items = blocks.reduce((sum, block) => sum + block.items, 0);
    await transaction(pool, async (client) => {
      await dropBlocks(client, blocks);
      if (memory) await writeExporterMemory(client, id, memory);
      const lost = Math.min(refused, items);
      await addToStatus(client, id, { sent: items - lost, refused: lost });
      await noteAttempt(client, id, Date.now(), null);
      if (refused > 0)
        await client.query("UPDATE exporter_status SET failure = $2, failed_at = $3 WHERE exporter = $1", [
          id,
          `refused: ${message || "the other side did not say why"}`,
          Date.now(),
        ]);
    });
    this.failures = 0;
    const { signal } = content;
    if (items > refused) told({ exporter: id, type, signal, items: items - refused, error: null });
    if (refused > 0) told({ exporter: id, type, signal, items: Math.min(refused, items), error: "rejected" });
  }
}

/** The page of an exporter as it was last made; null where nothing is on it yet. */
export async function pageOf(pool: pg.Pool, exporter: string, now: number): Promise<string | null> {
  const saved = (await readExporterMemory(pool, exporter)) as Memory | null;
  if (!saved?.points) return null;
  const dictionary = new Dictionary();
  const points = unpackBatch(new Uint8Array(Buffer.from(saved.points, "base64")), dictionary);
  return new Page(dictionary, 0, saved.change, points).text(now);
}
