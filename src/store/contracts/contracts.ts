import { asc, desc, eq } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { ContractBody, ContractEntry } from "@/core/contract/contract";
import { same } from "@/core/document/same";
import { transaction } from "../database/connect";
import { LOCKS } from "../database/locks";
import { contract } from "../schema";

/** Contracts with all their versions: none is ever changed, the latest counts. */

/** The contract of a metric that counts now; null where there is none or it was withdrawn. */
export async function currentContract(pool: pg.Pool, name: string): Promise<ContractEntry | null> {
  const [row] = await drizzle(pool)
    .select()
    .from(contract)
    .where(eq(contract.name, name))
    .orderBy(desc(contract.version))
    .limit(1);
  return row?.body ? row : null;
}

/** Every contract that counts now, by name. */
export async function listContracts(
  pool: pg.Pool | pg.PoolClient,
): Promise<(ContractEntry & { body: ContractBody })[]> {
  const rows = await drizzle(pool)
    .selectDistinctOn([contract.name])
    .from(contract)
    .orderBy(asc(contract.name), desc(contract.version))
    .limit(20_000);
  return rows.flatMap(({ body, ...rest }) => (body ? [{ ...rest, body }] : []));
}

/** All versions of a contract, newest first. */
export function contractHistory(pool: pg.Pool, name: string): Promise<ContractEntry[]> {
  return drizzle(pool)
    .select()
    .from(contract)
    .where(eq(contract.name, name))
    .orderBy(desc(contract.version))
    .limit(500);
}

/** What is saved: a null body withdraws. */
export interface ContractSave {
  name: string;
  body: ContractBody | null;
  note: string;
  who: string;
  /** The version that it was changed from; 0: none. Whatever is there, where it is left out. */
  based?: number;
}

/** Somebody else saved a version meanwhile. */
export class OutdatedContract extends Error {
  override name = "OutdatedContract";
  constructor(readonly latest: ContractEntry | null) {
    super(
      latest
        ? `version ${latest.version} was saved meanwhile by ${latest.who}: ${latest.note}`
        : "the contract was not there before",
    );
  }
}

/** Saves new versions together; one that says what the latest says already is left out. @returns the versions saved @throws OutdatedContract */
export function saveContracts(
  pool: pg.Pool,
  all: readonly ContractSave[],
): Promise<{ name: string; version: number }[]> {
  return transaction(pool, (client) => saveContractsIn(client, all));
}

/** Saves new versions within a transaction. @returns the versions saved @throws OutdatedContract */
export async function saveContractsIn(
  client: pg.PoolClient,
  all: readonly ContractSave[],
): Promise<{ name: string; version: number }[]> {
  await client.query("SELECT pg_advisory_xact_lock($1)", [LOCKS.contracts]);
  const saved: { name: string; version: number }[] = [];
  for (const { name, body, note, who, based } of all) {
    const [latest] = await drizzle(client)
      .select()
      .from(contract)
      .where(eq(contract.name, name))
      .orderBy(desc(contract.version))
      .limit(1);
    if (based !== undefined && based !== (latest?.version ?? 0)) throw new OutdatedContract(latest ?? null);
    if (latest ? same(latest.body, body) : body === null) continue;
    const version = (latest?.version ?? 0) + 1;
    await drizzle(client).insert(contract).values({ name, version, at: Date.now(), who, note, body });
    saved.push({ name, version });
  }
  return saved;
}
