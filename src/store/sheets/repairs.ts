import type pg from "pg";
import { nameLikeness } from "@/core/contract/rename";
import { type ContractRepair, contractRepairs } from "@/core/contract/repair";
import { plateWords } from "@/core/sheet/pickText";
import { readingsOf } from "@/core/sheet/plates";
import { type Repair, type RepairChange, repaired } from "@/core/sheet/repair";
import { needsIn } from "@/core/sheet/uses";
import { type ContractSave, listContracts, saveContractsIn } from "../contracts/contracts";
import { transaction } from "../database/connect";
import { LOCKS } from "../database/locks";
import { latestSheets, type MaySee, type SavedSheet, saveIn } from "./sheets";

/** Names that changed where data comes from: what may stand in their place, and putting them right on all sheets. */

/** What a name has probably become. */
export interface Replacement {
  to: string;
  /** Why it is thought so. */
  why: string;
}

const OFFERED = 4;
/** Names less alike than this are no offer. */
const ALIKE = 0.5;

/** What a metric has probably become: what was found when a release lacked it, then names that are like it. */
export async function replacementsFor(pool: pg.Pool, metric: string): Promise<Replacement[]> {
  const { rows: found } = await pool.query<{ subject: string; service: string; release: string }>(
    `SELECT subject, service, release FROM finding
     WHERE metric = $1 AND code = 'vanished' AND subject <> '' AND ended_at IS NULL ORDER BY first_at DESC LIMIT 10`,
    [metric],
  );
  const offered = new Map(
    found.map(({ subject, service, release }) => [
      subject,
      `${service} ${release} has it, and ${metric} no more; they look alike`,
    ]),
  );
  const { rows: metrics } = await pool.query<{ name: string }>("SELECT DISTINCT name FROM metric WHERE name <> $1", [
    metric,
  ]);
  const near = metrics
    .map(({ name }) => ({ name, likeness: nameLikeness(metric, name, ALIKE) }))
    .filter(({ likeness }) => likeness >= ALIKE)
    .sort((a, b) => b.likeness - a.likeness);
  for (const { name } of near) if (!offered.has(name)) offered.set(name, "its name is like it");
  return [...offered].slice(0, OFFERED).map(([to, why]) => ({ to, why }));
}

/** What a repair would change on one sheet. */
export interface SheetRepair {
  id: string;
  name: string;
  readers: string[];
  changes: RepairChange[];
}

function repairsOf(sheets: readonly SavedSheet[], repair: Repair): (SheetRepair & { saved: SavedSheet })[] {
  return sheets.flatMap((saved) => {
    const { changes } = repaired(saved.body, repair);
    const { name, readers } = saved.body;
    return changes.length === 0 ? [] : [{ id: saved.id, name, readers, changes, saved }];
  });
}

/** What a repair changes on sheets and in contracts. */
export interface Repaired {
  sheets: SheetRepair[];
  contracts: ContractRepair[];
}

async function contractsOf(client: pg.Pool | pg.PoolClient, repair: Repair): Promise<ContractRepair[]> {
  const contracts = await listContracts(client);
  return contractRepairs(
    contracts.map(({ body }) => body),
    repair,
  );
}

/** What a repair would change, sheet by sheet and contract by contract, and of how many sheets for others. */
export async function previewRepair(
  pool: pg.Pool,
  repair: Repair,
  may: MaySee,
): Promise<Repaired & { others: number }> {
  const found = repairsOf(await latestSheets(pool), repair);
  const all = found.filter(may);
  const sheets = all.map(({ saved: _, ...rest }) => rest);
  return { sheets, contracts: await contractsOf(pool, repair), others: found.length - all.length };
}

/**
 * Puts a name right in all contracts and on all sheets that somebody may see, each as its next version, all of them or none.
 *
 * @returns what was changed, and how many sheets for others would have been
 */
export function applyRepair(
  pool: pg.Pool,
  repair: Repair,
  who: string,
  may: MaySee,
): Promise<Repaired & { others: number }> {
  return transaction(pool, async (client) => {
    await client.query("SELECT 1 FROM sheet WHERE deleted_at IS NULL ORDER BY id FOR UPDATE");
    await client.query("SELECT pg_advisory_xact_lock($1)", [LOCKS.contracts]);
    const note = `${repair.from} became ${repair.to}`.slice(0, 500);
    const found = repairsOf(await latestSheets(client), repair);
    const all = found.filter(may);
    for (const { id, saved } of all)
      await saveIn(client, id, saved.version + 1, { body: repaired(saved.body, repair).sheet, who, note });
    const contracts = await contractsOf(client, repair);
    const saves = contracts.flatMap(({ name, becomes, body }): ContractSave[] => {
      if (!body) return [];
      const withdrawn = becomes === name ? [] : [{ name, body: null, note, who }];
      return [...withdrawn, { name: becomes, body, note, who }];
    });
    await saveContractsIn(client, saves);
    return { sheets: all.map(({ saved: _, ...rest }) => rest), contracts, others: found.length - all.length };
  });
}

/** A plate whose metric went away with a release. */
export interface EmptyPlate {
  sheet: string;
  name: string;
  readers: string[];
  plate: string;
  metric: string;
  service: string;
  release: string;
  /** What the metric probably became; "" where nothing is like it. */
  to: string;
  since: number;
}

/** Plates of metrics that a service's newest release lacks. */
export async function emptyPlates(pool: pg.Pool): Promise<EmptyPlate[]> {
  const { rows: gone } = await pool.query<{
    metric: string;
    service: string;
    release: string;
    to: string;
    since: string;
  }>(
    `SELECT metric, service, release, subject AS to, first_at AS since FROM finding
     WHERE code = 'vanished' AND ended_at IS NULL ORDER BY first_at DESC LIMIT 500`,
  );
  if (gone.length === 0) return [];
  const byMetric = new Map(gone.map((one) => [one.metric, one]));
  return (await latestSheets(pool)).flatMap(({ id, body }) =>
    readingsOf(body).flatMap(({ plate, reading }) => {
      const lacking = needsIn(reading.text).flatMap(({ metric }) => byMetric.get(metric) ?? []);
      return lacking.slice(0, 1).map(({ since, ...one }) => ({
        sheet: id,
        name: body.name,
        readers: body.readers,
        plate: plateWords(plate),
        ...one,
        since: Number(since),
      }));
    }),
  );
}
