import { expect, test } from "@playwright/test";
import pg from "pg";
import { migrateStore } from "../../src/store/database/migrate";
import { endClusters, newCluster } from "./clusters";
import { wait } from "./hammer";
import { freePort, killHard, read, startIntake, startWeb, WEB } from "./helpers";
import { type Counter, commitCounters, seriesOf, settle, stripsOf } from "./points";

const HOUR = 3600_000;
const DAY = 24 * HOUR;

/** Counters that rise unevenly, a point every 20 s. */
function rising(name: string, count: number, start: number, hours: number): Counter[] {
  const values = Array.from({ length: count }, (_, i) => String(i));
  return seriesOf(name, "shelf", values).map((series, k) => {
    let level = k;
    const points = Array.from({ length: hours * 180 }, (_, i): [number, number] => {
      level += ((i * 7919 + k * 104_729) % 1009) % 97;
      return [start + i * 20_000, level];
    });
    return { series, start, points };
  });
}

test("upkeep that is killed at any moment leaves every point once, and goes on", async () => {
  const cluster = await newCluster("upkeep");
  const pool = new pg.Pool({ connectionString: cluster.url });
  pool.on("error", () => {});
  try {
    await migrateStore(pool);
    const start = Math.floor(Date.now() / DAY - 2) * DAY;
    const counters = rising("tin.pressed", 60, start, 20);
    await commitCounters(pool, counters, 240);
    const env = { DATABASE_URL: cluster.url };
    const [port, webPort] = [await freePort(), await freePort()];
    const web = await startWeb(webPort, env);
    const base = `http://127.0.0.1:${webPort}`;
    const totals = async () => {
      const { series } = await read("count of tin.pressed by shelf", start, start + 20 * HOUR, "1h", base);
      return series.map(({ total }) => total);
    };
    const wanted = counters.map(({ points }) => points[points.length - 1][1] - points[0][1]);
    const sorted = async () => (await totals()).sort((a, b) => a! - b!);
    for (let round = 0; round < 6; round++) {
      const intake = await startIntake(port, env);
      await wait(60 + round * 170);
      await killHard(intake);
      expect(await sorted()).toEqual([...wanted].sort((a, b) => a - b));
    }
    await settle(pool);
    const levels = await stripsOf(pool, "tin.pressed");
    expect(levels.map(({ resolution, level }) => [resolution, level])).toEqual([
      [0, 3],
      [60, 3],
      [3600, 2],
    ]);
    expect(levels[0].points).toBe(60 * 20 * 180);
    expect(await sorted()).toEqual([...wanted].sort((a, b) => a - b));
    await killHard(web);
  } finally {
    await pool.end();
    await endClusters([cluster]);
  }
});

test("one series out of many is cut out of its strips, with the same numbers", async () => {
  const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL });
  const start = Math.floor(Date.now() / DAY - 2) * DAY + 4 * HOUR;
  const counters = rising("tin.rolled", 400, start, 4);
  await commitCounters(pool, counters, 4);
  await settle(pool);
  const { rows } = await pool.query(
    "SELECT max(size) AS size, max(head_size) AS head FROM strip JOIN metric ON metric.id = metric_id WHERE name = 'tin.rolled' AND resolution = 0",
  );
  // Large enough that it is looked into before it is fetched whole.
  expect(rows[0].size).toBeGreaterThan(48 * 1024);
  expect(rows[0].head).toBeLessThan(rows[0].size / 2);
  const [from, to] = [start + 1, start + 4 * HOUR - 1];
  const one = await read('count of tin.rolled where shelf is "207"', from, to, "10m");
  const all = await read("count of tin.rolled by shelf", from, to, "10m");
  expect(one.series[0].values).toEqual(all.series.find(({ labels }) => labels.shelf === "207")!.values);
  const some = await read('count of tin.rolled where shelf contains "39" by shelf', from, to, "10m");
  expect(some.series).toHaveLength(14);
  for (const { labels, values } of some.series)
    expect(values).toEqual(all.series.find((series) => series.labels.shelf === labels.shelf)!.values);
  await pool.end();
});

test("readings that nobody waits for any more hold nobody up", async () => {
  const now = Date.now();
  const query = new URLSearchParams({
    text: "count of tin.rolled by shelf",
    from: String(now - 3 * DAY),
    to: String(now),
  });
  const given: Promise<string>[] = [];
  for (let i = 0; i < 40; i++) {
    const signal = AbortSignal.timeout(5 + i * 3);
    given.push(
      fetch(`${WEB}/api/reading?${query}`, { signal }).then(
        async (response) => String(response.status),
        (error: Error) => error.name,
      ),
    );
  }
  const outcomes = new Set(await Promise.all(given));
  expect(outcomes.has("TimeoutError")).toBe(true);
  expect((await read("count of tin.rolled", now - 3 * DAY, now)).series[0].total).toBeGreaterThan(0);
});
