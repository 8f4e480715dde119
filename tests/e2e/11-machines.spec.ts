import { execFile } from "node:child_process";
import { promisify } from "node:util";
import { expect, test } from "@playwright/test";
import pg from "pg";
import { migrateStore } from "../../src/store/database/migrate";
import { type Cluster, endClusters, newCluster, newReplica, postgresProgram } from "./clusters";
import { hammer, wait } from "./hammer";
import { countOf, freePort, killHard, post, read, startIntake, startWeb } from "./helpers";
import { commitCounters, seriesOf, settle, stripsOf } from "./points";

const HOUR = 3600_000;
const DAY = 24 * HOUR;

test("two intakes and two webs on one database: any may be killed under load, nothing is lost or doubled", async () => {
  const ports = [await freePort(), await freePort()];
  const intakes = await Promise.all(ports.map((port) => startIntake(port)));
  const webPorts = [await freePort(), await freePort()];
  const webs = await Promise.all(webPorts.map((port) => startWeb(port)));
  let turn = 0;
  const rivets = hammer("rivet.set", Date.now() - 5 * HOUR, 10, () => `http://127.0.0.1:${ports[turn++ % 2]}`);
  let answered = 0;
  let reading = true;
  const readers = Promise.all(
    webPorts.map(async (port) => {
      while (reading) {
        const now = Date.now();
        const base = `http://127.0.0.1:${port}`;
        await read("count of rivet.set by lane", now - 6 * HOUR, now, "5m", base).then(
          () => answered++,
          () => {},
        );
        await wait(150);
      }
    }),
  );
  for (let round = 0; round < 4; round++) {
    const enough = answered + 6;
    await rivets.until(30);
    while (answered < enough) await wait(20);
    const i = round % 2;
    await killHard(intakes[i]);
    await killHard(webs[i]);
    [intakes[i], webs[i]] = await Promise.all([startIntake(ports[i]), startWeb(webPorts[i])]);
  }
  reading = false;
  await readers;
  await rivets.stop();
  expect(rivets.acknowledged.length).toBeGreaterThan(100);
  expect(answered).toBeGreaterThan(20);
  await rivets.again();
  for (const port of webPorts) {
    const { series } = await rivets.reads(`http://127.0.0.1:${port}`);
    expect(series[0].total).toBe(rivets.wanted());
  }
  for (const one of [...intakes, ...webs]) await killHard(one);
});

test("readings come from a streaming replica where there is one", async () => {
  const primary = await newCluster("primary");
  const clusters: Cluster[] = [primary];
  const pool = new pg.Pool({ connectionString: primary.url });
  pool.on("error", () => {});
  try {
    await migrateStore(pool);
    const replica = await newReplica("replica", primary.url);
    clusters.push(replica);
    const [intakePort, webPort] = [await freePort(), await freePort()];
    const env = { DATABASE_URL: primary.url, DATABASE_READ_URL: replica.url };
    const intake = await startIntake(intakePort, env);
    const web = await startWeb(webPort, env);
    const [base, now] = [`http://127.0.0.1:${webPort}`, Date.now()];
    expect(await post(countOf("far", "wire.drawn", 41, now - 60_000), `http://127.0.0.1:${intakePort}`)).toBe(200);
    const total = () =>
      read("count of wire.drawn", now - HOUR, now, "5m", base).then(
        ({ series }) => series[0]?.total ?? null,
        () => null,
      );
    await expect.poll(total).toBe(41);
    // With the primary gone, what had arrived can still be read, so it was the replica that answered.
    await killHard(intake);
    await pool.end();
    await primary.stop();
    expect(await total()).toBe(41);
    await killHard(web);
  } finally {
    await endClusters(clusters);
  }
});

test("strips are distributed over two servers by PostgreSQL's own means, with the same numbers", async () => {
  const clusters = [await newCluster("coordinator"), await newCluster("shard-a"), await newCluster("shard-b")];
  const [main, a, b] = clusters;
  const pool = new pg.Pool({ connectionString: main.url });
  pool.on("error", () => {});
  try {
    await migrateStore(pool);
    const start = Math.floor(Date.now() / DAY - 2) * DAY;
    const names = Array.from({ length: 8 }, (_, i) => `shard.metric.${i}`);
    const counters = (name: string, k: number) =>
      seriesOf(name, "wall", ["x", "y"]).map((series, j) => ({
        series,
        start,
        points: Array.from({ length: 200 }, (_, i) => [start + i * 30_000 + 7000, i * (k + j + 1)] as [number, number]),
      }));
    // One metric arrives before the strips are distributed and moves with them.
    await commitCounters(pool, counters(names[0], 0), 5);
    await promisify(execFile)(process.execPath, [".build/distribute.js", a.url, b.url], {
      env: { ...process.env, DATABASE_URL: main.url },
    });
    const [intakePort, webPort] = [await freePort(), await freePort()];
    const env = { DATABASE_URL: main.url };
    const intake = await startIntake(intakePort, env);
    const web = await startWeb(webPort, env);
    for (const [k, name] of names.entries()) if (k > 0) await commitCounters(pool, counters(name, k), 5);
    const [base, from, to] = [`http://127.0.0.1:${webPort}`, start, start + 2 * HOUR];
    const totals = async () => {
      const found: (number | null)[] = [];
      for (const name of names) found.push((await read(`count of ${name}`, from, to, "1h", base)).series[0].total);
      return found;
    };
    const wanted = names.map((_, k) => 199 * (k + 1) + 199 * (k + 2));
    expect(await totals()).toEqual(wanted);
    await settle(pool);
    expect(await totals()).toEqual(wanted);
    expect((await stripsOf(pool, names[3])).map(({ resolution }) => resolution)).toEqual([0, 60, 3600]);

    // Both servers hold a part, and nothing else does.
    const counts = await Promise.all(
      [a, b].map(async ({ url }) => {
        const shard = new pg.Client({ connectionString: url });
        await shard.connect();
        const { rows } = await shard.query("SELECT count(*)::int AS strips FROM strip");
        await shard.end();
        return rows[0].strips as number;
      }),
    );
    expect(Math.min(...counts)).toBeGreaterThan(0);
    const all = await pool.query("SELECT count(*)::int AS strips FROM strip");
    expect(counts[0] + counts[1]).toBe(all.rows[0].strips);
    // Deleting is carried out on the servers as a whole: row by row it could hit others in their partitions.
    const { rows } = await pool.query(
      "EXPLAIN (VERBOSE) DELETE FROM strip s WHERE s.metric_id IN (1,2) AND s.resolution = 0 AND s.t_from BETWEEN 1 AND 2 AND s.id = ANY('{1,2}'::bigint[])",
    );
    const plan = rows.map((row) => row["QUERY PLAN"]).join("\n");
    expect(plan).toContain("Foreign Delete");
    expect(plan).not.toContain("Foreign Scan");

    expect(await post(countOf("far", names[5], 1, start + HOUR), `http://127.0.0.1:${intakePort}`)).toBe(200);
    const page = await fetch(`${base}/api/store`);
    expect(page.status).toBe(200);
    const { resolutions } = (await page.json()) as { resolutions: { disk: number }[] };
    expect(resolutions[0].disk).toBeGreaterThan(0);
    await killHard(intake);
    await killHard(web);
  } finally {
    await pool.end();
    await endClusters(clusters);
  }
});

test("a backup made with the database's own means restores everything that was saved", async () => {
  const restored = await newCluster("restored");
  const file = `${restored.home}.dump`;
  const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL });
  const start = Math.floor(Date.now() / DAY - 2) * DAY;
  const points = Array.from({ length: 400 }, (_, i) => [start + i * 30_000, i] as [number, number]);
  const counters = seriesOf("stone.kept", "wall", ["a"]).map((series) => ({ series, start, points }));
  await commitCounters(pool, counters, 9);
  await settle(pool);
  await pool.end();
  // What is saved and what is compared with it are of one snapshot: the intake goes on writing meanwhile.
  const guard = new pg.Client({ connectionString: process.env.DATABASE_URL });
  await guard.connect();
  await guard.query("BEGIN ISOLATION LEVEL REPEATABLE READ");
  const { rows: snapshots } = await guard.query<{ id: string }>("SELECT pg_export_snapshot() AS id");
  try {
    await postgresProgram("pg_dump", "-Fc", `--snapshot=${snapshots[0].id}`, "-f", file, process.env.DATABASE_URL!);
    await postgresProgram("pg_restore", "--no-owner", "-d", restored.url, file);
    const digest = async (client: pg.Client) => {
      const tables = ["metric", "resource", "series", "release", "exemplar", "strip", "purge"];
      const found: Record<string, unknown> = {};
      for (const table of tables) {
        const { rows } = await client.query(
          `SELECT count(*)::int AS count, md5(string_agg(md5(t::text), '' ORDER BY md5(t::text))) AS digest FROM ${table} t`,
        );
        found[table] = rows[0];
      }
      return found;
    };
    const copy = new pg.Client({ connectionString: restored.url });
    await copy.connect();
    const saved = await digest(copy);
    await copy.end();
    expect((saved.strip as { count: number }).count).toBeGreaterThan(3);
    expect(saved).toEqual(await digest(guard));
    await guard.query("COMMIT");
    // And it goes on from there.
    const port = await freePort();
    const intake = await startIntake(port, { DATABASE_URL: restored.url });
    expect(await post(countOf("after", "brick.after", 3, Date.now() - 1000), `http://127.0.0.1:${port}`)).toBe(200);
    await killHard(intake);
  } finally {
    await guard.end();
    await endClusters([restored]);
  }
});
