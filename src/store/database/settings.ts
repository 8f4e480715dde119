import { eq, sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import { setting } from "../schema";

/** What is set once for all, by name. */

export async function readSetting(pool: pg.Pool, name: string): Promise<unknown> {
  const rows = await drizzle(pool).select({ value: setting.value }).from(setting).where(eq(setting.name, name));
  return rows[0]?.value;
}

export async function writeSetting(pool: pg.Pool, name: string, value: unknown): Promise<void> {
  await drizzle(pool)
    .insert(setting)
    .values({ name, value })
    .onConflictDoUpdate({ target: setting.name, set: { value } });
}

/** Changes the fields that are given of a setting that is one object, in one step: what others change meanwhile stays. */
export async function changeFields(pool: pg.Pool, name: string, fields: object): Promise<void> {
  await drizzle(pool)
    .insert(setting)
    .values({ name, value: fields })
    .onConflictDoUpdate({ target: setting.name, set: { value: sql`${setting.value} || excluded.value` } });
}
