import { expect, test } from "@playwright/test";
import pg from "pg";
import { Batch } from "../../src/core/otlp/batch/batch";
import { Dictionary } from "../../src/core/otlp/dictionary";
import { Committer } from "../../src/store/commit";
import { LONG_MERGE_WINDOW, MERGE_WINDOW } from "../../src/store/strips/mergeWindows";
import { read, WEB } from "./helpers";
import { mergeAll } from "./points";

const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL });
test.afterAll(() => pool.end());

async function stripsOf(name: string): Promise<{ level: number; strips: number; points: number }[]> {
  const { rows } = await pool.query(
    "SELECT level, count(*)::int AS strips, sum(point_count)::int AS points FROM strip JOIN metric ON metric.id = metric_id WHERE name = $1 AND resolution = 0 GROUP BY 1 ORDER BY 1",
    [name],
  );
  return rows;
}

test("merging changes the strips and not the numbers, late and repeated points included", async () => {
  const committer = new Committer(pool);
  const dictionary = new Dictionary();
  const metric = dictionary.metric(
    { name: "brick.laid", kind: "sum", unit: "{brick}", temporality: "cumulative", monotonic: true },
    "",
  );
  const series = ["a", "b", "c"].map((wall) =>
    dictionary.series(metric, {
      resource: { "service.name": "mason", "service.version": "1" },
      scope: { name: "", version: "" },
      attributes: { wall },
    }),
  );
  // In the future, so that the system's own intake leaves it alone: open at `soon`, over at `later`.
  const start = Math.ceil((Date.now() + 2 * LONG_MERGE_WINDOW) / LONG_MERGE_WINDOW) * LONG_MERGE_WINDOW;
  const soon = start + LONG_MERGE_WINDOW;
  const later = start + 2 * LONG_MERGE_WINDOW;
  const commit = async (minute: number, value: (wall: number) => number) => {
    const batch = new Batch();
    series.forEach((one, wall) => {
      batch.number(
        one,
        { timeMs: start + minute * 60_000, timeNs: 0, startMs: start - 1000, startNs: 0, flags: 0 },
        value(wall),
      );
    });
    await committer.commit([batch]);
  };
  const level = (minute: number) => (wall: number) => minute * (wall + 1);
  for (let minute = 0; minute <= 75; minute++) if (minute !== 40) await commit(minute, level(minute));

  const readAll = async () => {
    const answer = await read("count of brick.laid by wall", start, start + 75 * 60_000, "5m");
    return answer.series.map(({ labels, values, total }) => ({ labels, values, total }));
  };
  const fresh = await readAll();
  expect(fresh.map(({ total }) => total)).toEqual([75, 150, 225]);
  expect((await stripsOf("brick.laid"))[0]).toMatchObject({ level: 0, strips: 75 });

  await mergeAll(pool, soon);
  expect(await stripsOf("brick.laid")).toEqual([{ level: 2, strips: 3, points: 225 }]);
  expect(await readAll()).toEqual(fresh);

  // A late point that changes nothing in sum, and a repeated one with another value: the later arrival counts.
  await commit(40, level(40));
  await commit(75, (wall) => 80 * (wall + 1));
  const mended = await readAll();
  expect(mended.map(({ total }) => total)).toEqual([80, 160, 240]);
  await mergeAll(pool, soon);
  expect(await stripsOf("brick.laid")).toEqual([{ level: 2, strips: 3, points: 228 }]);
  expect(await readAll()).toEqual(mended);

  await mergeAll(pool, later);
  expect(await stripsOf("brick.laid")).toEqual([{ level: 3, strips: 1, points: 228 }]);
  expect(await readAll()).toEqual(mended);

  // Late once more, into the strip of two hours.
  await commit(75, (wall) => 90 * (wall + 1));
  const again = await readAll();
  expect(again.map(({ total }) => total)).toEqual([90, 180, 270]);
  await mergeAll(pool, later);
  expect(await stripsOf("brick.laid")).toEqual([{ level: 3, strips: 1, points: 228 }]);
  expect(await readAll()).toEqual(again);
});

test("many fresh strips of a half hour that is still open are gathered", async () => {
  const committer = new Committer(pool);
  const dictionary = new Dictionary();
  const metric = dictionary.metric(
    { name: "gravel.heap", kind: "gauge", unit: "kg", temporality: "none", monotonic: false },
    "",
  );
  const one = dictionary.series(metric, {
    resource: { "service.name": "mason" },
    scope: { name: "", version: "" },
    attributes: {},
  });
  const slot = Math.floor(Date.now() / MERGE_WINDOW) * MERGE_WINDOW;
  for (let i = 0; i < 120; i++) {
    const batch = new Batch();
    batch.number(one, { timeMs: slot + i * 1000, timeNs: i, startMs: 0, startNs: 0, flags: 0 }, i / 4);
    await committer.commit([batch]);
  }
  await mergeAll(pool, slot + MERGE_WINDOW / 2);
  // The system's own intake may have gathered some of them in between.
  const strips = await stripsOf("gravel.heap");
  expect(strips.find(({ level }) => level === 1)?.points).toBeGreaterThanOrEqual(100);
  expect(strips.reduce((sum, { points }) => sum + points, 0)).toBe(120);
  const { series } = await read("max of gravel.heap", slot, slot + 120_000, "1m");
  expect(series[0].values).toEqual([60 / 4, 119 / 4]);
});

/** The points that are stored of a metric, by wall and time, as the export hands them out. */
async function exported(name: string, from: number, to: number): Promise<Map<string, number>> {
  const query = new URLSearchParams({ metric: name, from: String(from), to: String(to), format: "otlp" });
  const response = await fetch(`${WEB}/api/export?${query}`);
  expect(response.status).toBe(200);
  const found = new Map<string, number>();
  for (const line of (await response.text()).split("\n").filter(Boolean)) {
    for (const { scopeMetrics } of JSON.parse(line).resourceMetrics)
      for (const { metrics } of scopeMetrics)
        for (const { gauge } of metrics)
          for (const { attributes, timeUnixNano, asDouble, asInt } of gauge.dataPoints)
            found.set(
              `${attributes[0].value.stringValue} ${BigInt(timeUnixNano) / 1_000_000n}`,
              Number(asDouble ?? asInt),
            );
  }
  return found;
}

test("whichever order points come, repeat and are merged in: of one series and time the last arrival stays", async () => {
  const committer = new Committer(pool);
  const dictionary = new Dictionary();
  const name = "mortar.wet";
  const metric = dictionary.metric({ name, kind: "gauge", unit: "kg", temporality: "none", monotonic: false }, "");
  const walls = ["a", "b", "c"].map((wall) =>
    dictionary.series(metric, {
      resource: { "service.name": "mason" },
      scope: { name: "", version: "" },
      attributes: { wall },
    }),
  );
  const seed = Number(process.env.TIN_SEED ?? Date.now() % 1_000_000);
  test.info().annotations.push({ type: "seed", description: String(seed) });
  let state = seed;
  const random = (below: number) => {
    state = (Math.imul(state, 1_103_515_245) + 12_345) & 0x7fffffff;
    return Math.floor((state / 0x80000000) * below);
  };
  // Twelve half hours in the future, so that only this test merges them; points stand at few moments near their seams.
  const start = Math.ceil((Date.now() + 2 * LONG_MERGE_WINDOW) / LONG_MERGE_WINDOW) * LONG_MERGE_WINDOW;
  const moment = () => start + random(12) * MERGE_WINDOW + [-60_000, 0, 60_000][random(3)];
  const wanted = new Map<string, number>();
  for (let round = 0; round < 60; round++) {
    const batch = new Batch();
    for (let i = 1 + random(5); i > 0; i--) {
      const wall = random(3);
      const timeMs = moment();
      const value = round + i / 8;
      batch.number(walls[wall], { timeMs, timeNs: 0, startMs: 0, startNs: 0, flags: 0 }, value);
      wanted.set(`${"abc"[wall]} ${timeMs}`, value);
    }
    await committer.commit([batch]);
    if (random(3) === 0) await mergeAll(pool, start + random(16) * MERGE_WINDOW);
    if (round % 6 === 5)
      expect(await exported(name, start - MERGE_WINDOW, start + 13 * MERGE_WINDOW), `seed ${seed}`).toEqual(wanted);
  }
  await mergeAll(pool, start + 5 * LONG_MERGE_WINDOW);
  expect(await exported(name, start - MERGE_WINDOW, start + 13 * MERGE_WINDOW), `seed ${seed}`).toEqual(wanted);
});
