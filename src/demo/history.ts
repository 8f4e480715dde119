import type { PointSet } from "@/core/metric/model";
import { DAY, HOUR, MINUTE } from "@/core/window/lengths";
import { noteReleases } from "@/store/commit";
import { connect, transaction } from "@/store/database/connect";
import { migrateStore } from "@/store/database/migrate";
import { ensurePartitions, HOURS, MINUTES, RAW } from "@/store/database/partitions";
import { writeActivity } from "@/store/registry/activity";
import { registerSeries } from "@/store/registry/registry";
import { settledStrips } from "@/store/strips/merge";
import { HOUR_SPAN, pack } from "@/store/strips/mergeWindows";
import { KEEP } from "@/store/strips/retention";
import { type FreshStrip, splitBySpan, writeStrips } from "@/store/strips/strips";
import { Historian } from "./historian";
import { allPlans, ENVIRONMENT, FINE_HISTORY, WHOLE_HISTORY } from "./model";
import { keepSheets } from "./sheets/seed";

/**
 * Writes thirteen months of Fern & Anvil into an empty store, ending now: a point an hour, and in the last fourteen days
 * a point a minute.
 */

/** What is generated and committed at a time of the fine part: some spans of merged strips, within one day. */
const CHUNK = 6 * HOUR;

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

async function writeHistory(): Promise<void> {
  const pool = connect();
  await migrateStore(pool);
  const { rows } = await pool.query("SELECT 1 FROM release WHERE service = 'loans' AND environment = $1 LIMIT 1", [
    ENVIRONMENT,
  ]);
  if (rows.length === 0) {
    const now = Math.floor(Date.now() / MINUTE) * MINUTE;
    const historian = new Historian(now);
    await registerSeries(pool, historian.allSeries());
    const identities = new Map(historian.allSeries().map(({ metric }) => [metric.id, metric.identity]));
    // The fine part begins at a midnight: a day has its hours from one source.
    const fine = Math.floor((now - FINE_HISTORY) / DAY) * DAY;
    const begin = now - WHOLE_HISTORY;
    const write = async (strips: FreshStrip[]) => {
      for (const resolution of [RAW, MINUTES, HOURS] as const) {
        const times = strips.filter((strip) => strip.resolution === resolution).map(({ from }) => from);
        await ensurePartitions(pool, resolution, times);
      }
      await transaction(pool, (client) => writeStrips(client, strips));
    };
    for (let from = Math.floor(begin / HOUR_SPAN) * HOUR_SPAN; from < fine; from += HOUR_SPAN) {
      const to = Math.min(from + HOUR_SPAN - 1, fine);
      const sets = historian.chunk(Math.max(from, begin) - 1, to, HOUR);
      await write([...sets].flatMap(([metricId, some]) => hourStrips(metricId, some, fine)));
      progress(((to - begin) / (fine - begin)) * 0.3);
    }
    for (let from = fine; from < now; from += CHUNK) {
      const to = Math.min(from + CHUNK, now + 1) - 1;
      const sets = historian.chunk(from === fine ? from : from - 1, to, MINUTE);
      const strips = [...sets].flatMap(([metricId, some]) => settledStrips(metricId, identities.get(metricId)!, some));
      await write(strips.filter((strip) => strip.resolution !== RAW || strip.to >= now - KEEP[RAW]));
      progress(0.3 + ((to - fine) / (now - fine)) * 0.69);
    }
    await writeActivity(pool, historian.heard());
    await transaction(pool, (client) =>
      noteReleases(client, [
        ...allPlans().map((plan) => ({
          service: plan.service,
          environment: ENVIRONMENT,
          version: plan.release,
          first: now - plan.started,
          last: plan.ended === null ? now : now - plan.ended,
        })),
        ...OTHERS.map(([service, version, age]) => ({
          service,
          environment: ENVIRONMENT,
          version,
          first: now - age * DAY,
          last: now,
        })),
      ]),
    );
    progress(1);
  }
  await keepSheets(pool);
  await pool.end();
}

await writeHistory();
