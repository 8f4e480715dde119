import type pg from "pg";
import type { Announcement } from "@/core/api/releases";
import { type LadderSetting, ladderSetting, USUAL_SETTING } from "@/core/release/setting";

/** What is known of a service's releases beside their calls. */

/** How a team looks at a service's releases; what is usual where they said nothing. */
export async function settingOf(client: pg.PoolClient, service: string, environment: string): Promise<LadderSetting> {
  const { rows } = await client.query<{ content: unknown }>(
    "SELECT content FROM ladder_setting WHERE service = $1 AND environment = $2",
    [service, environment],
  );
  const parsed = ladderSetting.safeParse(rows[0]?.content ?? {});
  return parsed.success ? parsed.data : USUAL_SETTING;
}

/** The announced releases of a service, the latest first. */
export async function announcedReleases(
  client: pg.PoolClient,
  service: string,
  environment: string,
): Promise<Announcement[]> {
  const { rows } = await client.query<Announcement>(
    `SELECT version AS release, at::float8, commit, author, notes, link, share,
       announced_by AS "announcedBy", announced_at::float8 AS "announcedAt"
     FROM announcement WHERE service = $1 AND environment = $2 ORDER BY at DESC LIMIT 200`,
    [service, environment],
  );
  return rows;
}
