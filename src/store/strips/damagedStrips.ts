import type pg from "pg";
import type { MetricIdentity } from "@/core/metric/model";
import { rollUp } from "@/core/rollup/rollUp";
import { assemble } from "@/core/strip/assemble";
import { decodeStrip, encodeStrip } from "@/core/strip/strip";
import { MINUTE } from "@/core/window/lengths";
import { transaction } from "../database/connect";
import { METRIC_LOCK } from "../database/locks";
import { RAW } from "../database/partitions";
import { putAside } from "../pipeline/setAside";
import { deleteStrips, type Listing, listStrips, readPayloads } from "./strips";
import type { Task } from "./tasks";

/** Goes, by itself, all the ways that a strip of points goes. @throws what stops it */
function goesThrough(payload: Uint8Array, identity: MetricIdentity): void {
  const sets = decodeStrip(payload);
  for (const parts of assemble(sets.map((set, arrived) => ({ set, arrived }))).values()) {
    encodeStrip(parts);
    rollUp(identity, parts, MINUTE);
  }
}

/**
 * Looks for the strips that stop a task, one by one, and sets them aside.
 *
 * @returns how many were found; 0 where no single one is to blame
 */
export async function setAsideDamaged(pool: pg.Pool, task: Task): Promise<number> {
  return transaction(pool, async (client) => {
    await client.query("SELECT pg_advisory_xact_lock($1, $2)", [METRIC_LOCK, task.metricId]);
    const { rows } = await client.query<MetricIdentity>(
      "SELECT name, kind, unit, temporality, monotonic FROM metric WHERE id = $1",
      [task.metricId],
    );
    let found = 0;
    const { start, length } = task;
    const span: Listing = { metricIds: [task.metricId], resolution: RAW, from: start, to: start + length - 1 };
    for (const note of await listStrips(client, span)) {
      const payload = (await readPayloads(client, [note])).get(note.id);
      if (!payload) continue;
      try {
        goesThrough(payload, rows[0]);
      } catch (reason) {
        await deleteStrips(client, [note]);
        await putAside(client, [
          { kind: "strip", subject: rows[0].name, points: note.pointCount, reason, body: payload },
        ]);
        found++;
      }
    }
    return found;
  });
}
