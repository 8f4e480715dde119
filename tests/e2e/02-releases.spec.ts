import { expect, test } from "@playwright/test";
import { isKnown, post, read, sendWithSdk } from "./helpers";

/**
 * What tests/e2e/sender.ts sends, worked out by hand.
 * 1.0.0: 40 calls of 20 ms in (10, 25 ms], 60 of 200 ms in (100, 250 ms], 5 failed; least 20, greatest 200 ms.
 *   p50 = 100 + (200 − 100) · (50 − 40) / 60 = 116.7 ms; p95 = 100 + 100 · (95 − 40) / 60 = 191.7 ms
 * 1.1.0: 50 calls of 20 ms, 50 of 700 ms in (500, 750 ms], 20 failed; greatest 700 ms.
 *   p50 = 25 ms, the end of its bucket; p95 = 500 + 200 · (95 − 50) / 50 = 680 ms
 */

let from = 0;
let to = 0;

test.beforeAll(async () => {
  from = Math.floor(Date.now() / 1000) * 1000 - 600_000;
  // After a failure the runner comes here again in another process; what was sent stays sent.
  if (!(await isKnown("kiln"))) {
    await sendWithSdk("1.0.0", "protobuf");
    await sendWithSdk("1.1.0", "json");
  }
  to = Math.ceil(Date.now() / 1000) * 1000 + 30_000;
});

test("the ladder shows each release with the numbers that were sent", async ({ page }) => {
  await page.goto(`/releases?service=kiln&environment=workshop&from=${from}&to=${to}`);
  const rungs = page.getByRole("row").filter({ has: page.getByRole("rowheader") });
  await expect(rungs).toHaveCount(2);
  const [candidate, before] = [rungs.nth(0), rungs.nth(1)];
  await expect(candidate.getByRole("rowheader")).toContainText("1.1.0");
  await expect(before.getByRole("rowheader")).toContainText("1.0.0");
  await expect(before.getByRole("img")).toHaveAccessibleName("p50 117 ms, p95 192 ms");
  await expect(candidate.getByRole("img")).toHaveAccessibleName("p50 25 ms, p95 680 ms");
  await expect(before).toContainText("5 % of 100");
  await expect(candidate).toContainText("20 % of 100");
  // 680 / 191.67 − 1
  await expect(candidate).toContainText("p95 +255 %");
  await expect(candidate).toContainText("errors +15 points");
  // It began some 30 s before the window ends, after the other had stopped: 100 calls over that time, and all of them its.
  await expect(candidate).toContainText(/100 %, [23]\.\d+ \/s/);
  await expect(before).toContainText("the first in this window");
});

test("scratch reads counters, explicit and exponential histograms from both encodings", async ({ page }) => {
  await page.goto(`/scratch?from=${from}&to=${to}`);
  const editor = page.getByRole("textbox", { name: "Reading" });
  await editor.click();
  await page.keyboard.type("count of pot.fired by release, depot", { delay: 5 });
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Read" }).click();
  const table = page.getByRole("table", { name: "Numbers of the reading by series" });
  for (const release of ["1.0.0", "1.1.0"]) {
    await expect(table.getByRole("row").filter({ hasText: release }).filter({ hasText: "Brindle" })).toContainText(
      "7 pot",
    );
    await expect(table.getByRole("row").filter({ hasText: release }).filter({ hasText: "Ostler Green" })).toContainText(
      "5 pot",
    );
  }
  await page.goto(
    `/scratch?from=${from}&to=${to}&reading=${encodeURIComponent("mean of firing.quote.duration by release")}`,
  );
  // The mean of 0.01 s to 1 s.
  await expect(table.getByRole("row").filter({ hasText: "1.1.0" })).toContainText("505 ms");
});

test("the API gives exact counts, and percentile bounds that hold the truth", async () => {
  const counts = await read("count of firing.quote.duration by release", from, to);
  expect(counts.series.map(({ total }) => total)).toEqual([100, 100]);
  const p90 = await read("p90 of firing.quote.duration", from, to);
  expect(p90.unit).toBe("s");
  expect(p90.series[0].totalLow!).toBeLessThanOrEqual(0.9);
  expect(p90.series[0].totalHigh!).toBeGreaterThanOrEqual(0.9);
  expect(p90.series[0].totalHigh! - p90.series[0].totalLow!).toBeLessThan(0.05);
  const share = await read(
    'share of http.server.request.duration that http.response.status_code >= 500 where service is "kiln" by release',
    from,
    to,
  );
  expect(share.series.map(({ labels, total }) => [labels["service.version"], total])).toEqual([
    ["1.0.0", 0.05],
    ["1.1.0", 0.2],
  ]);
  const steps = await read('count of http.server.request.duration where service is "kiln"', from, to, "7s");
  expect(steps.series[0].values.reduce<number>((sum, value) => sum + (value ?? 0), 0)).toBeCloseTo(200, 6);
});

const MINUTE = 60_000;
/** Upper bounds, s: five milliseconds apart. */
const BOUNDS = Array.from({ length: 120 }, (_, i) => (i + 1) / 200);

/** How many of so many calls lie in each bucket where their logarithms are spread evenly between two ends, s. */
function spreadEvenly(calls: number, least: number, greatest: number): number[] {
  const below = (bound: number) =>
    Math.round(calls * Math.min(1, Math.max(0, Math.log(bound / least) / Math.log(greatest / least))));
  return [...BOUNDS, Number.POSITIVE_INFINITY].map((bound, i) => below(bound) - (i === 0 ? 0 : below(BOUNDS[i - 1])));
}

function callsOf(version: string, at: number, counts: number[]) {
  const attribute = (key: string, stringValue: string) => ({ key, value: { stringValue } });
  const resource = {
    attributes: [
      attribute("service.name", "cutlery"),
      attribute("service.version", version),
      attribute("deployment.environment.name", "workshop"),
      attribute("service.instance.id", `cutlery-${version}`),
    ],
  };
  const point = {
    startTimeUnixNano: `${at - MINUTE}000000`,
    timeUnixNano: `${at}000000`,
    count: String(counts.reduce((sum, count) => sum + count, 0)),
    sum: 1,
    bucketCounts: counts.map(String),
    explicitBounds: BOUNDS,
    attributes: [attribute("http.route", "/blades")],
  };
  const histogram = { aggregationTemporality: 1, dataPoints: [point] };
  const metrics = [{ name: "http.server.request.duration", unit: "s", histogram }];
  return { resourceMetrics: [{ resource, scopeMetrics: [{ scope: { name: "cutlery" }, metrics }] }] };
}

test("a release is slower, or as quick, or there is not enough yet: judged against the one before it", async ({
  page,
}) => {
  const end = Math.floor(Date.now() / MINUTE) * MINUTE - 5 * MINUTE;
  const begin = end - 40 * MINUTE;
  for (let at = begin + MINUTE; at <= end; at += MINUTE) {
    // 1.0 all the time; 1.1 is 30 % slower and serves beside it, 1.2 no slower than that, with its few calls of a while.
    expect(await post(callsOf("1.0", at, spreadEvenly(1200, 0.02, 0.2)))).toBe(200);
    if (at > begin + 5 * MINUTE) expect(await post(callsOf("1.1", at, spreadEvenly(1200, 0.026, 0.26)))).toBe(200);
    if (at > end - 3 * MINUTE) expect(await post(callsOf("1.2", at, spreadEvenly(40, 0.026, 0.26)))).toBe(200);
  }
  await page.goto(`/releases?service=cutlery&environment=workshop&from=${begin}&to=${end}`);
  const rungs = page.getByRole("row").filter({ has: page.getByRole("rowheader") });
  await expect(rungs).toHaveCount(3);
  const [youngest, slow, first] = [rungs.nth(0), rungs.nth(1), rungs.nth(2)];
  await expect(slow.getByRole("rowheader")).toContainText("1.1");
  await expect(slow).toContainText("slower");
  await expect(slow).toContainText("against 1.0, 35 min side by side");
  // 0.026 / 0.02 − 1, within what buckets of 5 ms leave open.
  await expect(slow).toContainText(/p95 \+(29|30|31)(\.\d)? %/);
  await expect(slow).toContainText(/between \+\d+(\.\d+)? and \+\d+(\.\d+)? %/);
  // None failed on either side: 42,000 calls each are enough to say so.
  await expect(slow).toContainText("as many errors");
  await expect(youngest).toContainText("not enough yet");
  await expect(youngest).not.toContainText("slower");
  await expect(first).toContainText("the first in this window");
});
