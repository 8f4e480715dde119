import type { BlockList } from "node:net";
import type pg from "pg";
import type { Outgoing } from "@/core/otlp/batch/batch";
import { itemsOf } from "@/core/otlp/batch/sideOutputs";
import { Dictionary } from "@/core/otlp/dictionary";
import { packBatch, unpackBatch } from "@/core/pipeline/block";
import type { QueuedExporter } from "@/core/pipeline/exporters";
import { Page } from "@/core/pipeline/page";
import { TemporalityChange, type TemporalityState } from "@/core/pipeline/temporality";
import { transaction } from "@/store/database/connect";
import { isDamage } from "@/store/database/contentError";
import { OtherOriginError, openExporterSecrets } from "@/store/exports/exporterSecrets";
import {
  addToStatus,
  dropBlocks,
  noteAttempt,
  oldestBlocks,
  type QueuedBlock,
  readExporterMemory,
  unpackBlocks,
  writeExporterMemory,
} from "@/store/exports/exports";
import { putAside } from "@/store/pipeline/setAside";
import { backoff } from "./backoff";
import { appendToFile } from "./file";
import { type OtlpExporter, type Outcome, sendOtlp } from "./request";
import { cut } from "./split";

/** How often a queue is looked at, ms. */
const LOOK_EVERY = 500;
/** How often a page is made anew, ms. */
const PAGE_EVERY = 3000;
/** Items that a file or a page takes at once. */
const MAX_ITEMS = 50_000;
/** Series after which an exporter's dictionary is begun afresh. */
const MAX_SERIES = 200_000;

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
  /** The blocks that are sent next, where an attempt went only part of the way, and how many of their parts are there. */
  private begun: { blocks: ReadonlySet<number>; parts: number } | null = null;
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

  /**
   * What blocks hold. Where some cannot be read, each is tried by itself, and those are set aside.
   *
   * @returns the blocks that can be read, and what they hold; null where none can
   */
  private async unpacked(
    blocks: readonly QueuedBlock[],
  ): Promise<{ blocks: readonly QueuedBlock[]; content: Outgoing } | null> {
    if (this.dictionary.size > MAX_SERIES) this.dictionary = new Dictionary();
    try {
      return { blocks, content: await unpackBlocks(blocks, this.dictionary) };
    } catch (error) {
      this.parts.report(error);
      const sound: QueuedBlock[] = [];
      for (const block of blocks) {
        try {
          await unpackBlocks([block], this.dictionary);
          sound.push(block);
        } catch (reason) {
          await this.setAside([block], reason);
        }
      }
      return sound.length > 0 ? { blocks: sound, content: await unpackBlocks(sound, this.dictionary) } : null;
    }
  }

  private async setAside(blocks: readonly QueuedBlock[], reason: unknown): Promise<void> {
    const { id, type } = this.config;
    await transaction(this.parts.pool, async (client) => {
      await dropBlocks(client, blocks);
      await putAside(
        client,
        blocks.map(({ items, body }) => ({ kind: "export", subject: id, points: items, reason, body })),
      );
    });
    for (const { signal, items } of blocks)
      this.parts.told({ exporter: id, type, signal, items, error: "cannot be read" });
  }

  /** Sends what is due. @returns how long to wait for the next turn, ms */
  private async turn(): Promise<number> {
    const { pool } = this.parts;
    const { config } = this;
    const most = config.type === "otlp" ? config.batch : MAX_ITEMS;
    const { begun } = this;
    const oldest = await oldestBlocks(pool, config.id, most);
    const queued = begun ? oldest.filter(({ id }) => begun.blocks.has(id)) : oldest;
    if (queued.length === 0) {
      this.begun = null;
      return LOOK_EVERY;
    }
    const items = queued.reduce((sum, block) => sum + block.items, 0);
    if (config.type === "otlp") {
      const ready = begun !== null || items >= most || Date.now() - queued[0].at >= config.wait * 1000;
      if (!ready) return Math.min(LOOK_EVERY, config.wait * 1000);
    }
    const unpacked = await this.unpacked(queued);
    if (!unpacked) return 0;
    const { blocks, content } = unpacked;
    if (config.type === "otlp") return this.sendSound(config, blocks, content);
    if (config.type === "file") {
      await appendToFile(config, content);
      await this.settle(blocks, content, { refused: 0, message: "" });
      return 0;
    }
    await this.show(blocks, content);
    return PAGE_EVERY;
  }

  /** Sends blocks; where what they hold cannot be written as a request, the one to blame is set aside. */
  private async sendSound(config: OtlpExporter, blocks: readonly QueuedBlock[], content: Outgoing): Promise<number> {
    try {
      return await this.send(config, blocks, content);
    } catch (error) {
      if (!isDamage(error)) throw error;
      this.begun = blocks.length > 1 ? { blocks: new Set([blocks[0].id]), parts: 0 } : null;
      if (blocks.length === 1) await this.setAside(blocks, error);
      return 0;
    }
  }

  private async send(config: OtlpExporter, blocks: readonly QueuedBlock[], content: Outgoing): Promise<number> {
    const { pool, allowed } = this.parts;
    let going: Outgoing = content;
    let memory: Memory | undefined;
    if (content.signal === "metrics" && config.temporality !== "as it comes") {
      const saved = ((await readExporterMemory(pool, config.id)) ?? {}) as Memory;
      const change = new TemporalityChange(config.temporality, blocks[0].at, saved.change);
      going = { signal: "metrics", batch: change.change(content.batch, this.dictionary) };
      memory = { change: change.save() };
    }
    let secrets: Awaited<ReturnType<typeof openExporterSecrets>>;
    try {
      secrets = await openExporterSecrets(pool, config.id, config.url);
    } catch (error) {
      if (error instanceof OtherOriginError) return this.later(error.message, null);
      throw error;
    }
    let refused = 0;
    let message = "";
    const parts = cut(going, config.batch);
    const first = this.begun?.parts ?? 0;
    for (const [i, part] of parts.entries()) {
      // What the other side took in an attempt before is not sent to it again.
      if (i < first) continue;
      const outcome: Outcome = await sendOtlp(config, secrets, part, allowed);
      if (outcome.type === "later") {
        this.begun = { blocks: new Set(blocks.map(({ id }) => id)), parts: i };
        return this.later(outcome.reason, outcome.after);
      }
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
    this.begun = null;
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
