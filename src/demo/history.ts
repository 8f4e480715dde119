import type pg from "pg";
import type { PointSet } from "@/core/metric/model";
import { DAY, HOUR, MINUTE } from "@/core/window/lengths";
import { noteReleases, type ReleaseActivity } from "@/store/commit";
import { connect, transaction } from "@/store/database/connect";
import { migrateStore } from "@/store/database/migrate";
import { ensurePartitions, HOURS, MINUTES, RAW } from "@/store/database/partitions";
import { writeActivity } from "@/store/registry/activity";
import { registerSeries } from "@/store/registry/registry";
import { settledStrips } from "@/store/strips/merge";
import { HOUR_SPAN, pack } from "@/store/strips/mergeWindows";
import { KEEP } from "@/store/strips/retention";
import { type FreshStrip, makeStrip, splitBySpan, writeStrips } from "@/store/strips/strips";
import { Historian } from "./historian";
import { allPlans, ENVIRONMENT, FINE_HISTORY, WHOLE_HISTORY } from "./model";
import { keepSheets } from "./sheets/seed";

/**
 * Writes thirteen months of Fern & Anvil into an empty store: a point an hour, and in the last fourteen days a point a minute;
 * and once the programs themselves are about to begin, what came since.
 */

/** What is generated and committed at a time of the fine part: some spans of merged strips, within one day. */
const CHUNK = 6 * HOUR;
/** How often a point came since, ms. */
const SINCE_EVERY = 5000;

function progress(part: number): void {
  const width = 40;
  const done = Math.round(part * width);
  const bar = `${"█".repeat(done)}${"░".repeat(width - done)}`;
  if (process.stdout.isTTY)
    process.stdout.write(`\r• Writing history ${bar} ${Math.round(part * 100)} %${part === 1 ? "\n" : ""}`);
  else if (part === 1) process.stdout.write("• History written\n");
}

/** Hourly points as strips: of 16 days where these are over, else of a day; a last one on the bound joins the minutes. */
function hourStrips(metricId: number, sets: readonly PointSet[], fine: number): FreshStrip[] {
  const strips = (some: readonly PointSet[], level: number, resolution: typeof MINUTES | typeof HOURS) =>
    pack(metricId, some, { level, arrived: null, resolution });
  const [from] = splitBySpan(sets, HOUR_SPAN).keys();
  if (from + HOUR_SPAN <= fine) return strips(sets, 3, HOURS);
  return [...splitBySpan(sets, DAY)].flatMap(([day, some]) =>
    day < fine ? strips(some, 2, HOURS) : strips(some, 3, MINUTES),
  );
}

/** Releases of the other programs, and since how many days they run. */
const OTHERS: readonly [service: string, release: string, days: number][] = [
  ["lockers", "3.1", 210],
  ["lockers", "3.2", 5],
  ["reminders", "1.8.2", 41],
  ["courier-link", "2.3.0", 23],
];

/** Releases with when they were heard, up to a time. @param now when the past ends */
const releasesHeard = (now: number, until: number): ReleaseActivity[] => [
  ...allPlans().map((plan) => ({
    service: plan.service,
    environment: ENVIRONMENT,
    version: plan.release,
    first: now - plan.started,
    last: plan.ended === null ? until : now - plan.ended,
  })),
  ...OTHERS.map(([service, version, age]) => ({
    service,
    environment: ENVIRONMENT,
    version,
    first: now - age * DAY,
    last: until,
  })),
];

/** Writes all up to a time. */
async function writePast(pool: pg.Pool, historian: Historian, now: number): Promise<void> {
  await registerSeries(pool, historian.allSeries());
  const identities = new Map(historian.allSeries().map(({ metric }) => [metric.id, metric.identity]));
  // The fine part begins at a midnight: a day has its hours from one source.
  const fine = Math.floor((now - FINE_HISTORY) / DAY) * DAY;
  const begin = now - WHOLE_HISTORY;
  for (let from = Math.floor(begin / HOUR_SPAN) * HOUR_SPAN; from < fine; from += HOUR_SPAN) {
    const to = Math.min(from + HOUR_SPAN - 1, fine);
    const sets = historian.chunk(Math.max(from, begin) - 1, to, HOUR);
    await write(
      pool,
      [...sets].flatMap(([metricId, some]) => hourStrips(metricId, some, fine)),
    );
    progress(((to - begin) / (fine - begin)) * 0.3);
  }
  for (let from = fine; from < now; from += CHUNK) {
    const to = Math.min(from + CHUNK, now + 1) - 1;
    const sets = historian.chunk(from === fine ? from : from - 1, to, MINUTE);
    const rawFrom = now - KEEP[RAW];
    await write(
      pool,
      [...sets].flatMap(([metricId, some]) => settledStrips(metricId, identities.get(metricId)!, some, rawFrom)),
    );
    progress(0.3 + ((to - fine) / (now - fine)) * 0.69);
  }
  await writeActivity(pool, historian.heard(now));
  await transaction(pool, (client) => noteReleases(client, releasesHeard(now, now)));
  progress(1);
}

/** Writes what came since, as it would have arrived: the programs begin where it ends. */
async function writeSince(pool: pg.Pool, historian: Historian, now: number): Promise<void> {
  const until = Date.now();
  const sets = historian.chunk(now, until, SINCE_EVERY);
  await write(
    pool,
    [...sets].flatMap(([metricId, some]) =>
      [...splitBySpan(some, DAY).values()].map((day) => makeStrip(metricId, day, 0, null)),
    ),
  );
  await writeActivity(
    pool,
    historian.heard(until).map((one) => ({ ...one, points: 0 })),
  );
  await transaction(pool, (client) => noteReleases(client, releasesHeard(now, until)));
}

async function write(pool: pg.Pool, strips: FreshStrip[]): Promise<void> {
  for (const resolution of [RAW, MINUTES, HOURS] as const) {
    const times = strips.filter((strip) => strip.resolution === resolution).map(({ from }) => from);
    await ensurePartitions(pool, resolution, times);
  }
  await transaction(pool, (client) => writeStrips(client, strips));
}

/**
 * Waits until whoever began this says that the programs are about to begin; not at all where nobody does.
 *
 * @returns whether they begin
 */
async function programsBegin(): Promise<boolean> {
  if (!process.send) return true;
  process.send("written");
  return new Promise((resolve) => {
    process.once("message", () => resolve(true));
    process.once("disconnect", () => resolve(false));
  });
}

async function writeHistory(): Promise<void> {
  const pool = connect();
  await migrateStore(pool);
  const { rows } = await pool.query("SELECT 1 FROM release WHERE service = 'loans' AND environment = $1 LIMIT 1", [
    ENVIRONMENT,
  ]);
  const now = Math.floor(Date.now() / MINUTE) * MINUTE;
  const historian = rows.length === 0 ? new Historian(now) : null;
  if (historian) {
    await writePast(pool, historian, now);
    // The database counts by itself only after a minute, and until then knows no good way to so much.
    await pool.query("ANALYZE");
  }
  await keepSheets(pool);
  if ((await programsBegin()) && historian) await writeSince(pool, historian, now);
  await pool.end();
  if (process.connected) process.disconnect();
}

await writeHistory();
