import { and, desc, ilike, lt, or } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { RecordLine } from "@/core/api/record";
import { recordLine } from "../schema";

/** The record: who did what and when. The database lets nobody change or delete a line of it. */

/** What is put on record; the moment is now. Never a secret. */
export type NewRecordLine = Omit<RecordLine, "id" | "at">;

const MAX_TEXT = 500;

export async function putOnRecord(client: pg.Pool | pg.PoolClient, line: NewRecordLine): Promise<void> {
  const cut = (text: string) => text.slice(0, MAX_TEXT);
  await drizzle(client)
    .insert(recordLine)
    .values({ ...line, who: cut(line.who), about: cut(line.about), at: Date.now() });
}

/** Matches a text as it is, wherever it stands. */
const containing = (text: string) => `%${text.replace(/[\\%_]/g, "\\$&")}%`;

/** Lines with a text in any part of them, the newest first. @param before only those with a smaller number */
export function readRecord(
  pool: pg.Pool,
  { find, before, rows }: { find: string; before: number | null; rows: number },
): Promise<RecordLine[]> {
  const text = containing(find);
  return drizzle(pool)
    .select()
    .from(recordLine)
    .where(
      and(
        before === null ? undefined : lt(recordLine.id, before),
        find === ""
          ? undefined
          : or(
              ilike(recordLine.who, text),
              ilike(recordLine.did, text),
              ilike(recordLine.about, text),
              ilike(recordLine.address, text),
            ),
      ),
    )
    .orderBy(desc(recordLine.id))
    .limit(rows);
}
