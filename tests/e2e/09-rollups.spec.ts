import { expect, test } from "@playwright/test";
import pg from "pg";
import { readByHour } from "../../src/engine/byHour";
import { SeriesCache } from "../../src/engine/seriesCache";
import { StripCache } from "../../src/engine/stripCache";
import { runJob } from "../../src/store/jobs/job";
import { RETENTION } from "../../src/store/jobs/upkeep";
import { AS_JSON, countOf, INTAKE, read, WEB } from "./helpers";
import { type Counter, commitCounters, countAt, seriesOf, settle, stripsOf } from "./points";

const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL });
test.afterAll(() => pool.end());

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;
const midnight = (daysAgo: number) => Math.floor(Date.now() / DAY - daysAgo) * DAY;

/** Counters that rise unevenly, a point about every 15 s, none on a full minute. */
function uneven(name: string, from: number, to: number, walls: readonly string[]): Counter[] {
  return seriesOf(name, "wall", walls).map((series, k) => {
    const points: [number, number][] = [];
    let count = 100 * k;
    for (let time = from + 3217 + k, i = 0; time < to; time += 14_000 + ((i * 7919 + k * 31) % 2000), i++) {
      count += (i * 37 + k) % 11;
      points.push([time, count]);
    }
    return { series, start: from, points };
  });
}

async function expectCounts(name: string, counters: readonly Counter[], from: number, to: number, every: string) {
  const answer = await read(`count of ${name} by wall`, from, to, every);
  expect(answer.series).toHaveLength(counters.length);
  for (const counter of counters) {
    const wall = counter.series.identity.attributes.wall;
    const series = answer.series.find(({ labels }) => labels.wall === wall)!;
    expect(series.total).toBeCloseTo(countAt(counter, to) - countAt(counter, from), 6);
    answer.times.forEach((end, i) => {
      const begin = i === 0 ? from : answer.times[i - 1];
      expect(series.values[i]).toBeCloseTo(countAt(counter, end) - countAt(counter, begin), 6);
    });
  }
  return answer;
}

test("minutes and hours give the numbers of all points, and late points open them again", async () => {
  const start = midnight(3);
  const counters = uneven("kiln.fired", start + HOUR, start + 7 * HOUR, ["north", "south"]);
  // Some points stay behind and come later.
  const late = counters.map((one) => ({ ...one, points: one.points.filter((_, i) => i % 97 === 50) }));
  const early = counters.map((one) => ({ ...one, points: one.points.filter((_, i) => i % 97 !== 50) }));
  await commitCounters(pool, early, 40);
  const [from, to] = [start + 2 * HOUR, start + 6 * HOUR];

  // From all points, or from minutes already where upkeep came by meanwhile.
  await expectCounts("kiln.fired", early, from, to, "5m");
  await settle(pool);
  const levels = await stripsOf(pool, "kiln.fired");
  expect(levels.map(({ resolution, level }) => [resolution, level])).toEqual([
    [0, 3],
    [60, 3],
    [3600, 2],
  ]);
  expect(levels[2].points).toBeLessThan(levels[1].points);
  expect(levels[1].points).toBeLessThan(levels[0].points);
  expect((await expectCounts("kiln.fired", early, from, to, "5m")).resolutions).toEqual(["minute"]);
  expect((await expectCounts("kiln.fired", early, from, to, "1h")).resolutions).toEqual(["hour"]);
  // Bounds inside a minute are answered from the points around them.
  const split = await expectCounts("kiln.fired", early, from + 12_345, to + 6789, "1h");
  expect(split.resolutions).toEqual(["raw", "minute"]);

  await commitCounters(pool, late);
  await expectCounts("kiln.fired", counters, from, to, "1h");
  await settle(pool);
  expect((await expectCounts("kiln.fired", counters, from, to, "1h")).resolutions).toEqual(["hour"]);
  expect((await expectCounts("kiln.fired", counters, from, to, "1m")).resolutions).toEqual(["minute"]);
});

test("the first failures of a process that runs for long are counted in every window, from points, minutes and hours", async () => {
  const end = Math.floor(Date.now() / HOUR) * HOUR - 30 * MINUTE;
  const start = end - 9 * DAY;
  const text = (key: string, value: string) => ({ key, value: { stringValue: value } });
  const nanos = (time: number) => `${time}000000`;
  let failed = 0;
  const reports = 80;
  for (let report = 0; report < reports; report++) {
    const time = end - (reports - report) * 15_000;
    const point = (outcome: string, asInt: number) => ({
      attributes: [text("outcome", outcome)],
      startTimeUnixNano: nanos(start),
      timeUnixNano: nanos(time),
      asInt: String(asInt),
    });
    // Fails for the first time in the middle, and several times at once.
    if (report >= 40) failed += report % 8 === 0 ? 5 : 0;
    const dataPoints = [point("well", 90_000 + 10 * report), ...(failed > 0 ? [point("failed", failed)] : [])];
    const sum = { aggregationTemporality: 2, isMonotonic: true, dataPoints };
    const scopeMetrics = [{ metrics: [{ name: "kiln.loaded", unit: "{load}", sum }] }];
    const body = {
      resourceMetrics: [
        { resource: { attributes: [text("service.name", "kiln"), text("service.instance.id", "a")] }, scopeMetrics },
      ],
    };
    const answer = await fetch(`${INTAKE}/v1/metrics`, {
      method: "POST",
      ...AS_JSON,
      body: JSON.stringify(body),
    });
    expect(answer.status).toBe(200);
  }
  const expectFailed = async () => {
    for (const length of [15 * MINUTE, HOUR, 5 * HOUR]) {
      const answer = await read('count of kiln.loaded where outcome is "failed"', end - length, end, "1m");
      const first = Math.floor((end - 40 * 15_000) / MINUTE) * MINUTE;
      expect(answer.series[0].total).toBeCloseTo(failed, 9);
      // None of them before there was one.
      const before = answer.series[0].values.filter((_, i) => answer.times[i] < first);
      expect(before.every((value) => !value)).toBe(true);
    }
  };
  expect(failed).toBe(25);
  await expectFailed();
  await settle(pool);
  await expectFailed();
});

test("days that are read a few at a time say hour by hour what counting by hand says, over gaps, before the first point and of what is rolled up", async () => {
  const start = midnight(7);
  const spans = [
    [start + 30 * HOUR + 20 * MINUTE, start + 50 * HOUR],
    // Over the seam of two pieces, after a day without a point, and counted from nothing again.
    [start + 80 * HOUR, start + 101 * HOUR],
  ];
  const parts = spans.map(([from, to]) => uneven("kiln.glazed", from, to, ["north"])[0]);
  for (const part of parts) await commitCounters(pool, [part], 3);
  await settle(pool);
  const late = uneven("kiln.glazed", start + 125 * HOUR, start + 128 * HOUR, ["north"])[0];
  await commitCounters(pool, [late], 3);
  const client = await pool.connect();
  try {
    const caches = { series: new SeriesCache(), strips: new StripCache(2 ** 24) };
    const [counts, nothing, unreadable] = await readByHour(
      { client, caches, stillWanted() {} },
      ["count of kiln.glazed", 'count of kiln.glazed where wall is "south"', "count of kiln.unheard"],
      { from: start, to: start + 135 * HOUR },
    );
    expect(counts.times).toEqual(Array.from({ length: 135 }, (_, hour) => start + hour * HOUR));
    expect([...new Set([...nothing.values, ...unreadable.values])]).toEqual([null]);
    for (const [hour, begin] of counts.times.entries()) {
      const end = begin + HOUR;
      const part = [...parts, late].find(({ points }) => points.at(-1)![0] > begin && points[0][0] < end);
      // What was there at the first point was counted since its start.
      const whole = part && { ...part, points: [[part.start, 0] as [number, number], ...part.points] };
      const wanted = whole ? countAt(whole, end) - countAt(whole, begin) : null;
      if (wanted === null) expect(counts.values[hour]).toBeNull();
      else expect(counts.values[hour]).toBeCloseTo(wanted, 6);
    }
  } finally {
    client.release();
  }
});

test("several readings over one window are answered together", async () => {
  const from = midnight(3) + 2 * HOUR;
  const to = from + HOUR;
  const texts = ["count of kiln.fired by wall", "rate of kiln.fired", "count of kiln.fird"];
  const body = { readings: texts.map((text) => ({ text, every: "5m" })), from, to };
  const response = await fetch(`${WEB}/api/readings`, { method: "POST", ...AS_JSON, body: JSON.stringify(body) });
  expect(response.status).toBe(200);
  const answers = (await response.json()) as { ok: boolean; value: unknown; problem: { hint: string } }[];
  expect(answers[0].value).toEqual(await read(texts[0], from, to, "5m"));
  expect(answers[1].value).toEqual(await read(texts[1], from, to, "5m"));
  expect(answers[2]).toMatchObject({ ok: false, problem: { hint: "did you mean kiln.fired?" } });
});

test("a window that begins where only minutes are kept says so", async () => {
  const start = midnight(20);
  const counters = uneven("kiln.cooled", start + HOUR, start + 5 * HOUR, ["north"]);
  await commitCounters(pool, counters, 3);
  await settle(pool);
  await keepUp();
  expect((await stripsOf(pool, "kiln.cooled")).map(({ resolution }) => resolution)).toEqual([60, 3600]);
  const aligned = await expectCounts("kiln.cooled", counters, start + 2 * HOUR, start + 4 * HOUR, "10m");
  expect(aligned.warnings).toEqual([]);
  const [from, to] = [start + 2 * HOUR + 20_000, start + 4 * HOUR];
  const cut = await read("count of kiln.cooled", from, to, "10m");
  expect(cut.warnings.map(({ code }) => code)).toEqual(["coarse"]);
  const wanted = countAt(counters[0], to) - countAt(counters[0], from);
  // Laid evenly over the minute that is cut: off by less than what that minute counted.
  const inMinute = countAt(counters[0], start + 2 * HOUR + MINUTE) - countAt(counters[0], start + 2 * HOUR);
  expect(Math.abs(cut.series[0].total! - wanted)).toBeLessThan(inMinute);
});

/** Retention, whoever holds the job. */
async function keepUp(): Promise<void> {
  while ((await runJob(pool, RETENTION)) === null) await new Promise((resolve) => setTimeout(resolve, 50));
}

test("a partition goes as a whole, and a metric may be kept for a shorter time than others", async () => {
  const partition = `strip_raw_${new Date(midnight(20)).toISOString().slice(0, 10).replaceAll("-", "")}`;
  const { rows } = await pool.query("SELECT to_regclass($1) AS found", [partition]);
  expect(rows[0].found).toBeNull();

  const keep = (days: number | null) =>
    fetch(`${WEB}/api/store/keep`, {
      method: "POST",
      ...AS_JSON,
      body: JSON.stringify({ metric: "kiln.fired", raw: days && days * DAY, minutes: null, hours: null }),
    });
  expect((await keep(0.5)).status).toBe(400);
  expect((await keep(1)).status).toBe(200);
  await keepUp();
  expect((await stripsOf(pool, "kiln.fired")).map(({ resolution }) => resolution)).toEqual([60, 3600]);
  const [from, to] = [midnight(3) + 2 * HOUR, midnight(3) + 6 * HOUR];
  expect((await read("count of kiln.fired", from, to, "1h")).series[0].total).toBeGreaterThan(0);
});

test("points from before what is kept are refused with a reason, and the others are taken", async () => {
  const send = async (ms: number) => {
    const response = await fetch(`${INTAKE}/v1/metrics`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify(countOf("mason", "brick.old", 5, ms)),
    });
    return (await response.json()) as { partialSuccess?: { rejectedDataPoints: number; errorMessage: string } };
  };
  const refused = await send(Date.now() - 8 * DAY);
  expect(Number(refused.partialSuccess?.rejectedDataPoints)).toBe(1);
  expect(refused.partialSuccess?.errorMessage).toContain("before what is still kept");
  expect((await send(Date.now() - 6 * DAY)).partialSuccess ?? {}).toEqual({});
});

test("minutes of long ago stand in one strip a day, give the same numbers, and go apart for what comes late", async () => {
  const start = midnight(25);
  const counters = uneven("kiln.stacked", start + HOUR, start + 9 * HOUR, ["north", "south"]);
  const early = counters.map((one) => ({ ...one, points: one.points.filter(([time]) => time < start + 7 * HOUR) }));
  const late = counters.map((one) => ({ ...one, points: one.points.filter(([time]) => time >= start + 7 * HOUR) }));
  await commitCounters(pool, early, 3);
  await settle(pool);
  const minutes = async () => (await stripsOf(pool, "kiln.stacked")).filter(({ resolution }) => resolution === 60);
  expect(await minutes()).toMatchObject([{ level: 4, strips: 1 }]);
  const [from, to] = [start + 2 * HOUR, start + 6 * HOUR];
  // Points as they arrived are still there: where they are needed, they are read for their two hours only.
  await expectCounts("kiln.stacked", early, from, to, "5m");
  expect((await expectCounts("kiln.stacked", early, from + 20_000, to, "10m")).resolutions).toEqual(["raw", "minute"]);
  await keepUp();
  expect((await expectCounts("kiln.stacked", early, from, to, "10m")).resolutions).toEqual(["minute"]);

  await commitCounters(pool, late);
  await settle(pool);
  await keepUp();
  expect(await minutes()).toMatchObject([{ level: 4, strips: 1 }]);
  expect((await expectCounts("kiln.stacked", counters, from, start + 8 * HOUR, "10m")).resolutions).toEqual(["minute"]);
});
