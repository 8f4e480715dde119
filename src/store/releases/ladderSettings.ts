import { and, eq } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { LadderSetting } from "@/core/release/setting";
import { ladderSetting } from "../schema";

/** How teams look at the releases of their services. */

interface KeptSetting {
  content: LadderSetting;
  changedBy: string;
  changedAt: number;
}

/** @returns null where nobody chose anything */
export async function findLadderSetting(
  pool: pg.Pool,
  service: string,
  environment: string,
): Promise<KeptSetting | null> {
  const { content, changedBy, changedAt } = ladderSetting;
  const [found] = await drizzle(pool)
    .select({ content, changedBy, changedAt })
    .from(ladderSetting)
    .where(and(eq(ladderSetting.service, service), eq(ladderSetting.environment, environment)));
  return found ?? null;
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
