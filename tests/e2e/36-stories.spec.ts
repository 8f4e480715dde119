import { expect, test } from "@playwright/test";
import { post, WEB } from "./helpers";

/** What a rollout, or no rollout, looks like at first, and what it is. */

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
/** Upper bounds of buckets, s: two percent apart. */
const BOUNDS = Array.from({ length: 260 }, (_, i) => Number((0.01 * 1.02 ** i).toPrecision(6)));

function evenly(calls: number, least: number, greatest: number): number[] {
  const below = (bound: number) =>
    Math.round(calls * Math.min(1, Math.max(0, Math.log(bound / least) / Math.log(greatest / least))));
  return [...BOUNDS, Number.POSITIVE_INFINITY].map((bound, i) => below(bound) - (i === 0 ? 0 : below(BOUNDS[i - 1])));
}

const text = (key: string, stringValue: string) => ({ key, value: { stringValue } });

function resource(service: string, release: string) {
  return {
    attributes: [
      text("service.name", service),
      text("service.version", release),
      text("deployment.environment.name", "workshop"),
      text("service.instance.id", `${service}-${release}`),
    ],
  };
}

interface Calls {
  attributes: Record<string, string>;
  calls: number;
  least: number;
  greatest: number;
}

function histogramOf(service: string, release: string, from: number, to: number, all: readonly Calls[]): object {
  const dataPoints = all.map(({ attributes, calls, least, greatest }) => {
    const counts = evenly(calls, least, greatest);
    return {
      startTimeUnixNano: `${from}000000`,
      timeUnixNano: `${to}000000`,
      count: String(counts.reduce((sum, count) => sum + count, 0)),
      bucketCounts: counts.map(String),
      explicitBounds: BOUNDS,
      attributes: Object.entries(attributes).map(([key, value]) => text(key, value)),
    };
  });
  const histogram = { aggregationTemporality: 1, dataPoints };
  const metrics = [{ name: "http.server.request.duration", unit: "s", histogram }];
  return { resource: resource(service, release), scopeMetrics: [{ scope: { name: service }, metrics }] };
}

async function send(...resourceMetrics: object[]): Promise<void> {
  expect(await post({ resourceMetrics })).toBe(200);
}

test("a release that gets more of what is always slow looks slower, and is not, like for like", async ({ page }) => {
  const end = Math.floor(Date.now() / MINUTE) * MINUTE - 2 * MINUTE;
  const begin = end - 60 * MINUTE;
  const quotes = (hand: number, powered: number): Calls[] => [
    { attributes: { "tool.kind": "hand" }, calls: hand, least: 0.02, greatest: 0.08 },
    { attributes: { "tool.kind": "powered" }, calls: powered, least: 0.2, greatest: 0.5 },
  ];
  for (let at = begin + MINUTE; at <= end; at += MINUTE)
    await send(
      histogramOf("weavery", "1.9.4", at - MINUTE, at, quotes(9700, 300)),
      histogramOf("weavery", "2.0.0", at - MINUTE, at, quotes(2500, 1500)),
    );
  const query = `service=weavery&environment=workshop&from=${begin}&to=${end}`;
  await page.goto(`/releases?${query}`);
  const rungs = page.getByRole("row").filter({ has: page.getByRole("rowheader") });
  await expect(rungs.first()).toContainText("slower");
  await page.goto(`/releases/two?${query}&release=2.0.0`);
  await expect(page.getByRole("note")).toContainText("The mix of tool.kind changed.");
  const p95 = page.getByRole("row").filter({ has: page.getByRole("rowheader", { name: "p95", exact: true }) });
  await expect(p95).toContainText("slower");
  await expect(p95.getByRole("cell").last()).toContainText("as quick");
  const causes = page.getByRole("region", { name: "What explains it" });
  await expect(causes.getByRole("listitem").first()).toContainText("tool.kind = powered");
  await expect(causes.getByRole("listitem").first()).toContainText("mostly by there being more of them");
});

test("a release that failed more and was replaced says so after it is gone, against the same hours before", async ({
  page,
}) => {
  const end = Math.floor(Date.now() / HOUR) * HOUR - HOUR;
  const bad = end - 3 * HOUR;
  const good = bad - 30 * HOUR;
  const calls = (failing: number): Calls[] => [
    { attributes: { "http.response.status_code": "200" }, calls: 60_000 - failing, least: 0.02, greatest: 0.1 },
    { attributes: { "http.response.status_code": "500" }, calls: failing, least: 0.02, greatest: 0.1 },
  ];
  for (let at = good; at < bad; at += HOUR) await send(histogramOf("foundry", "5.2.2", at, at + HOUR, calls(240)));
  for (let at = bad; at < end; at += HOUR) await send(histogramOf("foundry", "5.2.3", at, at + HOUR, calls(1230)));
  await page.goto(`/releases/two?service=foundry&environment=workshop&release=5.2.3&from=${bad}&to=${end}`);
  const row = page.getByRole("row").filter({ has: page.getByRole("rowheader", { name: "errors", exact: true }) });
  // 1,230 and 240 of 60,000.
  await expect(row).toContainText("2.05 %");
  await expect(row).toContainText("0.4 %");
  await expect(row).toContainText("+1.65 points");
  await expect(row).toContainText("more errors");
  await expect(page.getByText("before and after: the same clock times of the day before")).toBeVisible();
});

test("nothing was released, yet it got slower: when, and where it comes from; and memory that leaks", async ({
  page,
}) => {
  test.setTimeout(240_000);
  const end = Math.floor(Date.now() / HOUR) * HOUR;
  const hours = 12 * 24;
  const changed = 200;
  const begin = end - hours * HOUR;
  const requests: object[] = [];
  for (let hour = 0; hour < hours; hour++) {
    const at = begin + hour * HOUR;
    const slow = hour >= changed ? 1.8 : 1;
    // Some noise, the same each time.
    const noise = 1 + 0.02 * Math.sin(hour * 12.9898);
    requests.push(
      histogramOf("bellows", "3.0", at, at + HOUR, [
        { attributes: { "http.route": "/pumps" }, calls: 3000, least: 0.02, greatest: 0.1 * noise },
        { attributes: { "http.route": "/anvils" }, calls: 1200, least: 0.02 * slow, greatest: 0.2 * noise * slow },
      ]),
    );
  }
  const points = Array.from({ length: hours }, (_, hour) => ({
    timeUnixNano: `${begin + (hour + 1) * HOUR - MINUTE}000000`,
    asDouble: 1e8 * (1 + 0.2 * (hour % 7)),
  }));
  const gauge = { dataPoints: points };
  const metrics = [{ name: "process.memory.usage", unit: "By", gauge }];
  const memory = { resource: resource("bellows", "3.0"), scopeMetrics: [{ scope: { name: "bellows" }, metrics }] };
  // In one piece: whoever looks meanwhile sees nothing, or all of it.
  await send(memory, ...requests);
  const found = async () => {
    const answer = await fetch(`${WEB}/api/drift?service=bellows&environment=workshop`);
    return (await answer.json()) as {
      drift: { leak: { hour: number } | null; shifts: { at: number; measure: string; change: number }[] } | null;
    };
  };
  await expect.poll(async () => (await found()).drift?.leak?.hour ?? 0, { timeout: 150_000 }).toBeCloseTo(2e7, -6);
  const { drift } = await found();
  const shift = drift!.shifts.find(({ measure }) => measure === "p95")!;
  expect(Math.abs(shift.at - (begin + changed * HOUR))).toBeLessThanOrEqual(2 * HOUR);
  await page.goto("/releases?service=bellows&environment=workshop&last=14d");
  await expect(page.getByText(/nothing was released, yet p95 rose by \d+/).first()).toBeVisible();
  await expect(page.getByRole("listitem").filter({ hasText: "nothing was released" }).first()).toContainText("/anvils");
  await expect(page.getByText(/looks like a leak/).first()).toContainText("an hour");
  await page.getByRole("link", { name: "against the day before" }).first().click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("3.0");
  const causes = page.getByRole("region", { name: "What explains it" });
  await expect(causes.getByRole("listitem").first()).toContainText("http.route = /anvils");
});
