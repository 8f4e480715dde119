import type pg from "pg";
import { FallWatch } from "@/core/contract/falls";
import type { ArrivedSeries, Finding } from "@/core/contract/finding";
import type { PointSet, Temporality } from "@/core/metric/model";
import { decodeStrip } from "@/core/strip/strip";
import { MINUTE } from "@/core/window/lengths";
import { isDamage } from "../database/contentError";
import { RAW } from "../database/partitions";
import { listStrips, readPayloads } from "../strips/strips";

/** Counters that fell lately without starting anew. */

/** For how long a fall is told. */
const BACK = 5 * MINUTE;
/** Bytes of strips that one look may read. */
const MAX_BYTES = 16 * 1024 * 1024;
/** Places in the order of arrival that a commit may be behind another. */
const BEHIND = 200;

interface Watched {
  watch: FallWatch;
  /** Up to which place in the order of arrival strips were looked at. */
  arrived: number;
  at: number;
}

/** What was looked at, by metric: only strips that came since then are read. */
const watched = new Map<number, Watched>();

/** Findings of counters named `name` that fell, one per instance. */
export async function counterDecreaseFindings(
  pool: pg.Pool,
  name: string,
  series: ReadonlyMap<number, ArrivedSeries>,
  now: number,
): Promise<Finding[]> {
  const { rows } = await pool.query<{ id: number; temporality: Temporality }>(
    "SELECT id, temporality FROM metric WHERE name = $1 AND monotonic AND kind = 'sum'",
    [name],
  );
  const found = new Map<string, Finding>();
  for (const { id, temporality } of rows) {
    let known = watched.get(id);
    // After a pause, or where another process held the job meanwhile, a look begins afresh.
    if (!known || now - known.at > BACK) known = { watch: new FallWatch(temporality), arrived: 0, at: now };
    watched.set(id, known);
    await look(pool, id, known, now);
    for (const { series: at, by } of known.watch.since(now - BACK)) {
      const one = series.get(at);
      if (!one) continue;
      const { service, environment, release, instance } = one;
      const detail = `it fell by ${by} without starting anew, which a counter must not`;
      const finding: Finding = { code: "negative", subject: "", service, environment, release, instance, detail };
      found.set(JSON.stringify([service, environment, release, instance]), finding);
    }
  }
  return [...found.values()];
}

/** The points of a strip; none of one that cannot be read, which upkeep sets aside. */
function readable(payload: Uint8Array): PointSet[] {
  try {
    return decodeStrip(payload);
  } catch (error) {
    if (!isDamage(error)) throw error;
    return [];
  }
}

async function look(pool: pg.Pool, id: number, known: Watched, now: number): Promise<void> {
  const client = await pool.connect();
  try {
    const notes = await listStrips(client, { metricIds: [id], resolution: RAW, from: now - BACK, to: now });
    let bytes = 0;
    const some = notes.filter(({ arrived, size }) => {
      if (arrived <= known.arrived - BEHIND) return false;
      bytes += size;
      return bytes <= MAX_BYTES;
    });
    const payloads = await readPayloads(client, some);
    for (const payload of payloads.values()) known.watch.add(readable(payload));
    known.arrived = some.reduce((most, { arrived }) => Math.max(most, arrived), known.arrived);
    known.at = now;
  } finally {
    client.release();
  }
}
