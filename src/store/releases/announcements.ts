import { and, desc, eq, sql } from "drizzle-orm";
import { drizzle } from "drizzle-orm/node-postgres";
import type pg from "pg";
import type { Announcement } from "@/core/api/releases";
import { announcement } from "../schema";

/** Releases as they were announced. */

/** What is said of a release; what is left out stays as it was. */
export interface NewAnnouncement {
  service: string;
  environment: string;
  version: string;
  at?: number;
  commit?: string;
  author?: string;
  notes?: string;
  link?: string;
  share?: number | null;
}

const { at, commit, author, notes, link, share, announcedBy, announcedAt } = announcement;
const COLUMNS = { release: announcement.version, at, commit, author, notes, link, share, announcedBy, announcedAt };

const named = ({ service, environment, version }: Pick<NewAnnouncement, "service" | "environment" | "version">) =>
  and(eq(announcement.service, service), eq(announcement.environment, environment), eq(announcement.version, version));

/** Announces a release, or says more of one. @returns it, and whether anything is another than before */
export async function announce(
  pool: pg.Pool,
  { service, environment, version, ...said }: NewAnnouncement,
  who: string,
): Promise<{ announcement: Announcement; changed: boolean }> {
  const db = drizzle(pool);
  const now = Date.now();
  const place = { service, environment, version };
  const fresh = { at: now, commit: "", author: "", notes: "", link: "", share: null, ...said };
  const inserted = await db
    .insert(announcement)
    .values({ ...place, ...fresh, announcedBy: who, announcedAt: now })
    .onConflictDoNothing()
    .returning(COLUMNS);
  if (inserted.length > 0) {
    await forgetOldest(pool);
    return { announcement: inserted[0], changed: true };
  }
  const set = Object.fromEntries(Object.entries(said).filter(([, value]) => value !== undefined)) as typeof said;
  const differs = Object.entries(set).map(
    ([name, value]) => sql`${announcement[name as keyof typeof set]} IS DISTINCT FROM ${value}`,
  );
  const changed =
    differs.length === 0
      ? []
      : await db
          .update(announcement)
          .set({ ...set, announcedBy: who, announcedAt: now })
          .where(and(named(place), sql`(${sql.join(differs, sql` OR `)})`))
          .returning(COLUMNS);
  if (changed.length > 0) return { announcement: changed[0], changed: true };
  const [there] = await db.select(COLUMNS).from(announcement).where(named(place));
  return { announcement: there, changed: false };
}

/** So many are kept; the oldest go first. */
const MAX_KEPT = 50_000;

async function forgetOldest(pool: pg.Pool): Promise<void> {
  await pool.query(
    `DELETE FROM announcement WHERE (service, environment, version) IN
       (SELECT service, environment, version FROM announcement ORDER BY announced_at DESC OFFSET $1)`,
    [MAX_KEPT],
  );
}

const MAX = 200;

/** The announced releases of a service, the latest first. */
export function announcementsOf(
  pool: pg.Pool | pg.PoolClient,
  service: string,
  environment: string,
): Promise<Announcement[]> {
  return drizzle(pool)
    .select(COLUMNS)
    .from(announcement)
    .where(and(eq(announcement.service, service), eq(announcement.environment, environment)))
    .orderBy(desc(announcement.at))
    .limit(MAX);
}
