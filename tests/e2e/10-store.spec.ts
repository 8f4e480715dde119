import { expect, test } from "@playwright/test";
import pg from "pg";
import type { CatalogueEntry } from "../../src/core/api/instruments";
import type { StoreAnswer } from "../../src/core/api/store";
import { runJob } from "../../src/store/jobs/job";
import { describeStore } from "../../src/store/overview";
import { forgetting } from "../../src/store/registry/forgetSeries";
import { listInstruments } from "../../src/store/registry/instruments";
import { SUMMING } from "../../src/store/summary/summing";
import { AS_JSON, FRESH, read, WEB } from "./helpers";
import { type Counter, commitCounters, seriesOf, settle, stripsOf } from "./points";

const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL });
test.afterAll(() => pool.end());

const HOUR = 3600_000;
const DAY = 24 * HOUR;
const START = Math.floor(Date.now() / DAY - 2) * DAY + 3 * HOUR;

/** A brick a second on one wall, two on the other; a point every 30 s for three hours. */
function steady(name: string): Counter[] {
  return seriesOf(name, "wall", ["east", "west"]).map((series, k) => ({
    series,
    start: START,
    points: Array.from({ length: 361 }, (_, i) => [START + i * 30_000, i * 30 * (k + 1)] as [number, number]),
  }));
}

interface Preview {
  raw: number;
  minutes: number;
  hours: number;
  series: number;
}

async function ask(path: string, body: object): Promise<{ status: number; body: unknown }> {
  const response = await fetch(`${WEB}/api/store/purge${path}`, {
    method: "POST",
    ...AS_JSON,
    body: JSON.stringify(body),
  });
  return { status: response.status, body: await response.json() };
}

async function totals(name: string, from: number, to: number): Promise<Record<string, number | null>> {
  const { series } = await read(`count of ${name} by wall`, from, to, "1h");
  return Object.fromEntries(series.map(({ labels, total }) => [labels.wall, total]));
}

async function purged(id: number): Promise<void> {
  for (;;) {
    const { rows } = await pool.query("SELECT finished_at FROM purge WHERE id = $1", [id]);
    if (rows[0].finished_at !== null) return;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
}

test("the page says what is stored and what costs most, and deletes by name with a record", async ({ page }) => {
  await commitCounters(pool, steady("slate.cut"));
  await settle(pool);
  expect(await totals("slate.cut", START, START + 3 * HOUR)).toEqual({ east: 10_800, west: 21_600 });

  await page.goto("/store");
  const row = page.getByRole("row", { name: /slate\.cut/ });
  // 2 series of 361 points, of which minutes keep one in two and hours one in 120, and the first.
  await expect(row).toContainText("722");
  await expect(row.getByRole("cell").nth(1)).toHaveText("2");
  const [raw, minutes, hours] = await stripsOf(pool, "slate.cut");
  await expect(row.getByRole("cell").nth(2)).toHaveText(String(raw.points));
  await expect(row.getByRole("cell").nth(3)).toHaveText(String(minutes.points));
  await expect(row.getByRole("cell").nth(4)).toHaveText(String(hours.points));

  const sizes = await pool.query<{ resolution: number; bytes: number }>(
    `SELECT resolution, sum(octet_length(payload))::int AS bytes FROM strip JOIN metric ON metric.id = metric_id
     WHERE name = 'slate.cut' GROUP BY 1`,
  );
  const { metrics } = (await (await fetch(`${WEB}/api/store?find=slate.cut`, FRESH)).json()) as {
    metrics: { name: string; bytes: number }[];
  };
  expect(metrics.find(({ name }) => name === "slate.cut")!.bytes).toBe(
    sizes.rows.reduce((sum, { bytes }) => sum + bytes, 0),
  );

  await row.getByRole("button", { name: "delete points of slate.cut" }).click();
  const dialog = page.getByRole("dialog", { name: "Delete points" });
  await dialog.getByText("those with one value of an attribute").click();
  await dialog.getByLabel("attribute", { exact: true }).selectOption("wall");
  await dialog.getByLabel("value", { exact: true }).fill("west");
  await dialog.getByRole("button", { name: "Show what goes" }).click();
  await expect(dialog).toContainText(`${raw.points / 2} points as they arrived`);
  await expect(dialog).toContainText(`${minutes.points / 2} by the minute and ${hours.points / 2} by the hour`);
  await dialog.getByRole("button", { name: "Delete for good" }).click();
  await expect(dialog).toBeHidden();
  const record = page.getByRole("listitem").filter({ hasText: "Ottilie Marsh" });
  const gone = (raw.points + minutes.points + hours.points) / 2;
  await expect(record).toContainText(`slate.cut where wall is "west" by Ottilie Marsh`);
  await expect(record).toContainText(`${gone} rows`);
  await expect(record).not.toContainText("at work");
  expect(await totals("slate.cut", START, START + 3 * HOUR)).toEqual({ east: 10_800 });
});

test("a span is deleted from all resolutions, and what is around it stays", async () => {
  const counters = steady("slate.laid").map((one) => ({
    ...one,
    // Started anew every half hour, so that a deleted span is gone from the counts as well.
    points: one.points.map(([time, count]) => [time, count % (1800 * (one.points[1][1] / 30))] as [number, number]),
  }));
  await commitCounters(pool, counters);
  await settle(pool);
  const before = await totals("slate.laid", START, START + 3 * HOUR);
  const span = { metric: "slate.laid", from: START + HOUR + 1000, to: START + 2 * HOUR - 90_000 };
  const preview = (await ask("/preview", span)).body as Preview;
  // Widened to full minutes: (60 min, 119 min], a point every 30 s, of two series.
  expect(preview).toMatchObject({ raw: 2 * 2 * 59 - 2 + 2, series: 2 });
  const { status, body } = await ask("", { ...span });
  expect(status).toBe(202);
  await purged((body as { id: number }).id);
  expect((await ask("/preview", span)).body).toMatchObject({ raw: 0, minutes: 0, hours: 0, series: 0, first: null });
  await settle(pool);
  const { rows } = await pool.query(
    `SELECT count(*)::int AS strips FROM strip JOIN metric ON metric.id = metric_id WHERE name = 'slate.laid' AND resolution = 3600`,
  );
  expect(rows[0].strips).toBeGreaterThan(0);
  const after = await totals("slate.laid", START, START + 3 * HOUR);
  const raw = await read("count of slate.laid by wall", START + 1, START + 3 * HOUR - 1, "10m");
  for (const { labels, total } of raw.series) {
    expect(after[labels.wall!]).toBeLessThan(before[labels.wall!]!);
    expect(total).toBeCloseTo(after[labels.wall!]!, -1);
  }
});

test("how long a metric is kept is changed on the page, and what does not go together is said", async ({ page }) => {
  await page.goto("/store");
  const row = page.getByRole("row", { name: /slate\.laid/ });
  await row.getByRole("button", { name: /change how long/ }).click();
  const dialog = page.getByRole("dialog", { name: "How long it is kept" });
  await dialog.getByLabel("Points as they arrived").fill("90");
  await dialog.getByRole("button", { name: "Keep it so" }).click();
  await expect(dialog.getByRole("alert")).toContainText("minutes must be kept at least as long");
  await dialog.getByLabel("By the minute").fill("120");
  await dialog.getByRole("button", { name: "Keep it so" }).click();
  await expect(dialog).toBeHidden();
  await expect(row).toContainText("90 d · 120 d · usual");
  const { rows } = await pool.query("SELECT keep_raw, keep_minute, keep_hour FROM metric WHERE name = 'slate.laid'");
  expect(rows).toEqual([{ keep_raw: String(90 * DAY), keep_minute: String(120 * DAY), keep_hour: null }]);
});

test("a purge without a metric is refused, and of nothing there is nothing to delete", async () => {
  expect((await ask("", {})).status).toBe(400);
  expect((await ask("", { metric: "" })).status).toBe(400);
  expect((await ask("/preview", { metric: "no.such.metric" })).body).toMatchObject({ raw: 0, series: 0 });
});

test("what is counted in the background is what counting now gives, after points, a purge and an instance that went", async () => {
  const sum = async () => {
    while ((await runJob(pool, SUMMING)) === null) await new Promise((resolve) => setTimeout(resolve, 50));
  };
  // Tin Ladder writes metrics of its own all the while: both are asked until nothing came in between.
  const same = async () => {
    await expect(async () => {
      await sum();
      const now = Date.now();
      const [counted, fresh] = [await describeStore(pool, now, ALL, false), await describeStore(pool, now, ALL, true)];
      expect(counted.series).toBe(fresh.series);
      expect(ofStrips(counted)).toEqual(ofStrips(fresh));
      expect(await catalogue(now, false)).toEqual(await catalogue(now, true));
    }).toPass({ timeout: 120_000 });
    return catalogue(Date.now(), false);
  };
  await same();
  await commitCounters(pool, counters("jar.filled", ["left", "right"]));
  // Of a metric that came since, the numbers are right at once.
  const [jar] = (await catalogue(Date.now(), false)).filter(({ name }) => name === "jar.filled");
  expect(jar).toMatchObject({ series: 2, services: ["mason"], attributes: ["shelf"] });
  await commitCounters(pool, counters("jar.filled", ["left", "right", "middle"]));
  const after = await same();
  expect(after.find(({ name }) => name === "jar.filled")).toMatchObject({ series: 3 });
  await pool.query("DELETE FROM strip WHERE metric_id = (SELECT id FROM metric WHERE name = 'jar.filled')");
  await pool.query("DELETE FROM known_value WHERE metric_id = (SELECT id FROM metric WHERE name = 'jar.filled')");
  while ((await runJob(pool, forgetting(-DAY))) === null) await new Promise((resolve) => setTimeout(resolve, 50));
  expect((await same()).find(({ name }) => name === "jar.filled")?.series).toBe(0);
});

const ALL = { find: "", rows: 20_000, after: "", defined: false };

async function catalogue(now: number, fresh: boolean): Promise<CatalogueEntry[]> {
  return (await listInstruments(pool, now, ALL, fresh)).instruments;
}

test("the catalogue in parts is the catalogue, and the costliest metrics with a text in their names are a part of all", async () => {
  const whole = (await catalogue(Date.now(), false)).map(({ name }) => name);
  expect(whole.length).toBeGreaterThan(3);
  const names: string[] = [];
  for (let after: string | null = ""; after !== null; ) {
    const part = await listInstruments(pool, Date.now(), { after, rows: 3, defined: false }, false);
    expect(part.instruments.length).toBeLessThanOrEqual(3);
    names.push(...part.instruments.map(({ name }) => name));
    after = part.next;
  }
  expect(names).toEqual(whole);
  for (const fresh of [false, true]) {
    const all = await describeStore(pool, Date.now(), ALL, fresh);
    const some = await describeStore(pool, Date.now(), { find: "TIN.", rows: 2 }, fresh);
    const having = all.metrics.filter(({ name }) => name.toLowerCase().includes("tin."));
    expect(some.found).toBe(having.length);
    expect(some.metrics.map(({ name }) => name)).toEqual(having.slice(0, 2).map(({ name }) => name));
    expect([some.all, some.series]).toEqual([all.all, all.series]);
  }
});

test("a metric that is counted while the page is asked for is told once, and none is left out", async () => {
  const names = Array.from({ length: 12 }, (_, i) => `crock.n${i}`);
  for (const [i, name] of names.entries()) {
    await commitCounters(pool, counters(name, ["left"]));
    const summed = runJob(pool, SUMMING);
    for (let turn = 0; turn < 4; turn++) {
      const { metrics, found } = await describeStore(pool, Date.now(), { find: "crock.", rows: 100 }, false);
      expect(metrics.map((one) => one.name).sort()).toEqual(names.slice(0, i + 1).sort());
      expect(found).toBe(i + 1);
      const [entry] = (await listInstruments(pool, Date.now(), { ...ALL, after: "crock.", rows: 100 }, false))
        .instruments;
      expect(entry).toMatchObject({ name: "crock.n0", series: 1 });
    }
    await summed;
  }
});

/** All that is told of strips, but for the disk, which is always looked at. */
function ofStrips({ resolutions, metrics }: StoreAnswer) {
  return {
    resolutions: resolutions.map(({ disk: _, ...rest }) => rest),
    metrics: [...metrics].sort((a, b) => (a.name < b.name ? -1 : 1)),
  };
}

function counters(name: string, shelves: readonly string[]): Counter[] {
  const now = Date.now();
  return seriesOf(name, "shelf", shelves).map((series) => ({ series, start: now - 60_000, points: [[now, 7]] }));
}
