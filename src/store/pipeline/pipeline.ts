import { promisify } from "node:util";
import { deflateRaw, inflateRaw } from "node:zlib";
import { desc, eq, gte } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import { EMPTY_PIPELINE, type PipelineConfig, pipelineSchema } from "@/core/pipeline/config";
import type { Base } from "@/core/pipeline/increases";
import type { Seen } from "@/core/pipeline/routes";
import type { WaitState } from "@/core/pipeline/steps/definition";
import { DAY } from "@/core/window/lengths";
import { transaction } from "../database/connect";
import { laneState, limitSeen, pipelineVersion } from "../schema";

/** The pipeline as it was published, version by version, and what the steps of a version remember. */

export const PIPELINE_CHANGED = "tin_pipeline";

export interface PipelineVersion {
  id: number;
  at: number;
  who: string;
  note: string;
  config: PipelineConfig;
}

/** What is live where nothing was ever published. */
const NONE: PipelineVersion = { id: 0, at: 0, who: "", note: "", config: EMPTY_PIPELINE };

/** Versions that were read before: a version never changes. */
const known = new WeakMap<pg.Pool, Map<number, PipelineVersion>>();

/** A version as it is understood now: what it does not say yet is as usual. */
function whole(pool: pg.Pool, row: Omit<PipelineVersion, "config"> & { config: unknown }): PipelineVersion {
  const versions = known.get(pool) ?? new Map<number, PipelineVersion>();
  known.set(pool, versions);
  const version = versions.get(row.id) ?? { ...row, config: pipelineSchema.parse(row.config) };
  versions.set(row.id, version);
  return version;
}

export async function livePipeline(pool: pg.Pool): Promise<PipelineVersion> {
  const [row] = await drizzle(pool).select().from(pipelineVersion).orderBy(desc(pipelineVersion.id)).limit(1);
  return row ? whole(pool, row) : NONE;
}

/** Published versions, newest first. */
export async function listPipelines(pool: pg.Pool): Promise<PipelineVersion[]> {
  const rows = await drizzle(pool).select().from(pipelineVersion).orderBy(desc(pipelineVersion.id)).limit(200);
  return rows.map((row) => whole(pool, row));
}

/** Published versions from one on, oldest first. */
export async function pipelinesFrom(pool: pg.Pool, id: number): Promise<PipelineVersion[]> {
  const rows = await drizzle(pool)
    .select()
    .from(pipelineVersion)
    .where(gte(pipelineVersion.id, id))
    .orderBy(pipelineVersion.id);
  return rows.map((row) => whole(pool, row));
}

/** What a draft was begun from was not live any more when it was to be published. */
export class OutdatedDraft extends Error {
  override name = "OutdatedDraft";
}

/**
 * Makes a pipeline live.
 *
 * @param based the version that the draft was begun from
 * @throws OutdatedDraft where another was published since
 */
export async function publishPipeline(
  pool: pg.Pool,
  { config, who, note, based }: { config: PipelineConfig; who: string; note: string; based: number },
): Promise<number> {
  return transaction(pool, async (client) => {
    await client.query("LOCK TABLE pipeline_version IN EXCLUSIVE MODE");
    const { rows } = await client.query<{ id: number }>("SELECT max(id) AS id FROM pipeline_version");
    const live = rows[0].id ?? 0;
    if (live !== based) throw new OutdatedDraft(`version ${live} was published meanwhile; look at it first`);
    const [{ id }] = await drizzle(client)
      .insert(pipelineVersion)
      .values({ at: Date.now(), who, note, config })
      .returning({ id: pipelineVersion.id });
    await client.query(`NOTIFY ${PIPELINE_CHANGED}`);
    return id;
  });
}

const deflate = promisify(deflateRaw);
const inflate = promisify(inflateRaw);

/** What a version remembers, by its steps, and what it may need of steps that ended with the one before. */
export interface LaneMemory {
  steps: Record<string, WaitState>;
  ended?: {
    /** Up to when they closed their windows, Unix ms. */
    closed: number;
    /** What they knew of their members' running totals. */
    bases: [string, Base][];
  };
}

export async function readMemory(pool: pg.Pool, version: number): Promise<LaneMemory | null> {
  const [row] = await drizzle(pool).select().from(laneState).where(eq(laneState.version, version));
  return row ? (JSON.parse((await inflate(row.body)).toString("utf8")) as LaneMemory) : null;
}

/** What changes with every writing of a version's memory; null where it has none. */
export async function memoryMark(pool: pg.Pool | pg.PoolClient, version: number): Promise<string | null> {
  const { rows } = await pool.query<{ mark: string }>("SELECT xmin::text AS mark FROM lane_state WHERE version = $1", [
    version,
  ]);
  return rows[0]?.mark ?? null;
}

/** Writes what steps remember, inside the transaction of a connection. @returns its mark */
export async function writeMemory(client: pg.PoolClient, version: number, memory: LaneMemory): Promise<string | null> {
  const body = await deflate(JSON.stringify(memory), { level: 1 });
  const at = Date.now();
  await drizzle(client)
    .insert(laneState)
    .values({ version, at, body })
    .onConflictDoUpdate({ target: laneState.version, set: { at, body } });
  return memoryMark(client, version);
}

/** For how long a limit remembers a series that it let through, ms. */
export const LIMIT_REMEMBERS = DAY;

/** Series that limits let through, of all processes and versions, as far as that was said since a moment (Unix ms). */
export async function readSeen(pool: pg.Pool, since: number): Promise<Seen[]> {
  const { step, metric, series, at } = limitSeen;
  return drizzle(pool).select({ step, metric, series }).from(limitSeen).where(gte(at, since));
}

export async function writeSeen(pool: pg.Pool, all: readonly Seen[]): Promise<void> {
  for (let from = 0; from < all.length; from += 5000)
    await drizzle(pool)
      .insert(limitSeen)
      .values(all.slice(from, from + 5000).map((one) => ({ ...one, at: Date.now() })))
      .onConflictDoUpdate({ target: [limitSeen.step, limitSeen.metric, limitSeen.series], set: { at: Date.now() } });
}
