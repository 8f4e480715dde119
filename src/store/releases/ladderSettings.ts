import { and, eq } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import { type LadderSetting, ladderSetting as schema, USUAL_SETTING } from "@/core/release/setting";
import { ladderSetting } from "../schema";

/** How teams look at the releases of their services. */

interface KeptSetting {
  content: LadderSetting;
  changedBy: string;
  changedAt: number;
}

/** @returns null where nobody chose anything, or what is kept is not understood any more */
export async function findLadderSetting(
  pool: pg.Pool | pg.PoolClient,
  service: string,
  environment: string,
): Promise<KeptSetting | null> {
  const { content, changedBy, changedAt } = ladderSetting;
  const [found] = await drizzle(pool)
    .select({ content, changedBy, changedAt })
    .from(ladderSetting)
    .where(and(eq(ladderSetting.service, service), eq(ladderSetting.environment, environment)));
  const parsed = schema.safeParse(found?.content);
  return found && parsed.success ? { ...found, content: parsed.data } : null;
}

/** How a service's releases are looked at; as usual where nobody said otherwise. */
export async function ladderSettingOf(
  client: pg.Pool | pg.PoolClient,
  service: string,
  environment: string,
): Promise<LadderSetting> {
  return (await findLadderSetting(client, service, environment))?.content ?? USUAL_SETTING;
}

export async function setLadderSetting(
  pool: pg.Pool,
  place: { service: string; environment: string },
  content: LadderSetting,
  who: string,
): Promise<void> {
  const set = { content, changedBy: who, changedAt: Date.now() };
  await drizzle(pool)
    .insert(ladderSetting)
    .values({ ...place, ...set })
    .onConflictDoUpdate({ target: [ladderSetting.service, ladderSetting.environment], set });
}
