import { execFile } from "node:child_process";
import { expect, type Page, test } from "@playwright/test";
import pg from "pg";
import { noteOutlook, servicesDue } from "../../src/store/releases/outlooks";
import { INTAKE, post, read, WEB } from "./helpers";

/**
 * A rollout from its announcement to its report. What is sent is made up by formula, and every figure on the page is
 * worked out here from the very counts that were sent.
 */

const MINUTE = 60_000;
/** Upper bounds of buckets, s: five milliseconds apart. */
const BOUNDS = Array.from({ length: 160 }, (_, i) => (i + 1) / 200);
const LENGTH = 40;
/** So many minutes after the first one, the candidate begins. */
const LATER = 5;

/** By. */
const MEMORY: Record<string, number> = { "2.0.0": 1e8, "2.1.0": 1.38e8 };

interface Combination {
  depot: string;
  route: string;
  status: number;
  /** Calls a minute. */
  calls: number;
  /** Between which values they lie, evenly by their logarithm, s. */
  least: number;
  greatest: number;
}

const DEPOTS = ["Brindle", "Candlewick", "Nether Pike"];
const ROUTES = ["/hides", "/hides/{id}"];

/** The calls of a minute. The candidate is slow at Brindle when a hide is asked for, and nowhere else. */
function combinations(release: string): Combination[] {
  const all = DEPOTS.flatMap((depot, i) =>
    ROUTES.map((route, j) => {
      const slow = release === "2.1.0" && depot === "Brindle" && route === "/hides/{id}";
      const calls = (release === "2.1.0" ? 3000 : 7000) + 500 * i + 900 * j;
      return { depot, route, status: 200, calls, least: slow ? 0.15 : 0.02, greatest: slow ? 0.6 : 0.2 };
    }),
  );
  // One call of a hundred fails on both sides.
  const failed = all.map((one) => ({ ...one, status: 500, calls: Math.round(one.calls / 100) }));
  return [...all, ...failed];
}

function countsOf({ calls, least, greatest }: Combination): number[] {
  const below = (bound: number) =>
    Math.round(calls * Math.min(1, Math.max(0, Math.log(bound / least) / Math.log(greatest / least))));
  return [...BOUNDS, Number.POSITIVE_INFINITY].map((bound, i) => below(bound) - (i === 0 ? 0 : below(BOUNDS[i - 1])));
}

function requestOf(release: string, at: number): object {
  const attribute = (key: string, value: string | number) => ({
    key,
    value: typeof value === "number" ? { intValue: String(value) } : { stringValue: value },
  });
  const resource = {
    attributes: [
      attribute("service.name", "tannery"),
      attribute("service.version", release),
      attribute("deployment.environment.name", "workshop"),
      attribute("service.instance.id", `tannery-${release}`),
    ],
  };
  const dataPoints = combinations(release).map((one) => {
    const counts = countsOf(one);
    return {
      startTimeUnixNano: `${at - MINUTE}000000`,
      timeUnixNano: `${at}000000`,
      count: String(counts.reduce((sum, count) => sum + count, 0)),
      bucketCounts: counts.map(String),
      explicitBounds: BOUNDS,
      attributes: [
        attribute("depot", one.depot),
        attribute("http.route", one.route),
        attribute("http.response.status_code", one.status),
      ],
    };
  });
  const memory = { dataPoints: [{ timeUnixNano: `${at - 1000}000000`, asDouble: MEMORY[release] ?? 1e8 }] };
  const metrics = [
    { name: "http.server.request.duration", unit: "s", histogram: { aggregationTemporality: 1, dataPoints } },
    { name: "process.memory.usage", unit: "By", gauge: memory },
  ];
  return { resourceMetrics: [{ resource, scopeMetrics: [{ scope: { name: "tannery" }, metrics }] }] };
}

interface Ended {
  code: number;
  out: string;
  told: string;
}

function command(...args: string[]): Promise<Ended> {
  return new Promise((resolve) => {
    const env = { ...process.env, TIN_KEY: process.env.TIN_TEST_KEY, TIN_ADDRESS: WEB };
    const child = ["scripts/tin-ladder.mjs", ...args];
    execFile(process.execPath, child, { env }, (error, out, told) =>
      resolve({ code: error ? Number(error.code) : 0, out, told }),
    );
  });
}

// ----- worked out from what is sent

type Chosen = (one: Combination) => boolean;
const everything: Chosen = () => true;

/** Calls by bucket, each combination counted so many times. */
function countsIn(release: string, chosen: Chosen, weight: (one: Combination) => number = () => 1): number[] {
  const sums = new Array<number>(BOUNDS.length + 1).fill(0);
  for (const one of combinations(release).filter(chosen))
    countsOf(one).forEach((count, i) => {
      sums[i] += weight(one) * count;
    });
  return sums;
}

function quantile(release: string, q: number, chosen: Chosen = everything): number {
  return quantileIn(countsIn(release, chosen), q);
}

function quantileIn(sums: readonly number[], q: number): number {
  const rank = q * sums.reduce((total, count) => total + count, 0);
  let below = 0;
  for (let i = 0; i < BOUNDS.length; i++) {
    if (below + sums[i] >= rank) {
      const low = i === 0 ? 0 : BOUNDS[i - 1];
      return low + ((rank - below) / sums[i]) * (BOUNDS[i] - low);
    }
    below += sums[i];
  }
  return Number.NaN;
}

function callsOf(release: string, chosen: Chosen = everything): number {
  return combinations(release)
    .filter(chosen)
    .reduce((total, { calls }) => total + calls, 0);
}

function slowerThan(release: string, bound: number, chosen: Chosen = everything): number {
  return combinations(release)
    .filter(chosen)
    .reduce((total, one) => {
      const counts = countsOf(one);
      return total + counts.reduce((sum, count, i) => sum + (i > 0 && BOUNDS[i - 1] >= bound - 1e-9 ? count : 0), 0);
    }, 0);
}

/** Three figures that count, as numbers are written. */
function figures(value: number): string {
  const size = Math.abs(value);
  const places = size >= 100 ? 0 : size >= 10 ? 1 : size >= 1 ? 2 : Math.min(8, 2 - Math.floor(Math.log10(size)));
  return String(Number(value.toFixed(places)));
}

const inMs = (seconds: number) => `${figures(seconds * 1000)} ms`;
const ofAll = (share: number) => `${figures(share * 100)} %`;
const signed = (part: number, unit: string) => `${part > 0 ? "+" : "−"}${figures(Math.abs(part) * 100)} ${unit}`;

const planted: Chosen = ({ depot, route }) => depot === "Brindle" && route === "/hides/{id}";

/** What a group of calls adds to the change of the share of slow ones (Kitagawa 1955). */
function partOf(bound: number, chosen: Chosen): number {
  const share = (release: string, who: Chosen) => slowerThan(release, bound, who) / callsOf(release, who);
  const weight = (release: string) => callsOf(release, chosen) / callsOf(release);
  const usual = (share("2.1.0", everything) + share("2.0.0", everything)) / 2;
  const [now, then] = [share("2.1.0", chosen), share("2.0.0", chosen)];
  const within = ((weight("2.1.0") + weight("2.0.0")) / 2) * (now - then);
  return within + (weight("2.1.0") - weight("2.0.0")) * ((now + then) / 2 - usual);
}

let end = 0;
let begin = 0;
let announcedAt = 0;

async function sendMinutes(release: string, from: number): Promise<void> {
  for (let at = from + MINUTE; at <= end; at += MINUTE) expect(await post(requestOf(release, at))).toBe(200);
}

const RELEASE = ["release", "tannery", "2.1.0", "--environment", "workshop"];
const VERDICT = ["verdict", "tannery", "2.1.0", "--environment", "workshop"];
const line = (page: Page, name: string) =>
  page
    .getByRole("table", { name: "2.1.0 against 2.0.0" })
    .getByRole("row")
    .filter({ has: page.getByRole("rowheader", { name, exact: true }) });

test.describe.configure({ mode: "serial" });

test.beforeAll(async () => {
  end = Math.floor(Date.now() / MINUTE) * MINUTE - 2 * MINUTE;
  begin = end - LENGTH * MINUTE;
  const query = new URLSearchParams({ service: "tannery", environment: "workshop" });
  const known = (await (await fetch(`${WEB}/api/releases?${query}`)).json()) as { releases: unknown[] };
  // After a failure the runner comes here again in another process; what was sent stays sent.
  test.skip(known.releases.length > 1, "what came before it failed");
});

test("a release is announced by command, and nothing is said of it before it serves", async ({ page }) => {
  await sendMinutes("2.0.0", begin);
  await page.goto("/releases?service=tannery&environment=workshop&last=1h");
  const rungs = page.getByRole("row").filter({ has: page.getByRole("rowheader") });
  await expect(rungs).toHaveCount(1);
  expect(await command(...VERDICT)).toMatchObject({
    code: 1,
    told: expect.stringContaining("neither heard nor announced"),
  });
  announcedAt = Date.now();
  const details = [
    "--share",
    "33%",
    "--commit",
    "4be21f07",
    "--author",
    "Quill Anvil",
    "--notes",
    "Hides by their age",
  ];
  expect(await command(...RELEASE, ...details)).toMatchObject({
    code: 0,
    told: expect.stringContaining("is announced"),
  });
  expect(await command(...RELEASE, ...details)).toMatchObject({ code: 0, told: expect.stringContaining("already") });
  // What is left out stays as it was.
  expect((await command(...RELEASE, "--commit", "4be21f07", "--author", "Quill Anvil", "--notes", "By age")).code).toBe(
    0,
  );
  await expect(page.getByText(/2\.1\.0 is announced for .* by Quill Anvil, for 33 % of the calls/)).toBeVisible({
    timeout: 30_000,
  });
  expect(await command(...VERDICT)).toMatchObject({ code: 3, told: expect.stringContaining("not heard yet") });
  expect((await command(...RELEASE, "--share", "130%")).told).toContain("a part of all traffic");
  expect((await command(...RELEASE, "--link", "javascript:alert(1)")).told).toContain("http://");
});

test("its rung appears by itself once it is heard, with its verdict", async ({ page }) => {
  await page.goto("/releases?service=tannery&environment=workshop&last=1h");
  const rungs = page.getByRole("row").filter({ has: page.getByRole("rowheader") });
  await expect(rungs).toHaveCount(1);
  await sendMinutes("2.1.0", begin + LATER * MINUTE);
  await expect(rungs).toHaveCount(2, { timeout: 30_000 });
  await expect(rungs.first()).toContainText("2.1.0");
  await expect(rungs.first()).toContainText("slower");
  await expect(rungs.first()).toContainText("meant 33 %");
  await rungs.first().getByRole("link", { name: "what explains it" }).click();
  await expect(page).toHaveURL(/\/releases\/two\?/);
  await expect(page.getByRole("heading", { level: 1 })).toContainText("2.1.0");
});

const FIXED = () => `from=${begin}&to=${end}`;
const ADDRESS = () => `/releases/two?service=tannery&environment=workshop&release=2.1.0&${FIXED()}`;

test("every figure of the comparison is the one that was sent", async ({ page }) => {
  await page.goto(ADDRESS());
  for (const [name, q] of [
    ["p50", 0.5],
    ["p95", 0.95],
    ["p99", 0.99],
  ] as const) {
    const [ours, theirs] = [quantile("2.1.0", q), quantile("2.0.0", q)];
    await expect(line(page, name)).toContainText(inMs(ours));
    await expect(line(page, name)).toContainText(inMs(theirs));
    await expect(line(page, name)).toContainText(signed(ours / theirs - 1, "%"));
  }
  await expect(line(page, "p95")).toContainText("slower");
  const failed: Chosen = ({ status }) => status === 500;
  for (const release of ["2.1.0", "2.0.0"])
    await expect(line(page, "errors")).toContainText(ofAll(callsOf(release, failed) / callsOf(release)));
  await expect(line(page, "errors")).toContainText("as many errors");
  for (const release of ["2.1.0", "2.0.0"])
    await expect(line(page, "throughput")).toContainText(`${figures(callsOf(release) / 60)} /s`);
  const split = callsOf("2.1.0") / (callsOf("2.1.0") + callsOf("2.0.0"));
  await expect(line(page, "throughput")).toContainText("meant 33 %: as meant");
  await expect(line(page, "throughput")).toContainText(`has ${ofAll(split)} of all calls`);
  await expect(page.getByText(`${LENGTH - LATER} minutes of each, side by side`)).toBeVisible();

  // What explains it: the bound is the bucket's nearest to the p95 of the baseline.
  const p95 = quantile("2.0.0", 0.95);
  const bound = BOUNDS.reduce((best, one) =>
    Math.abs(Math.log(one / p95)) < Math.abs(Math.log(best / p95)) ? one : best,
  );
  const causes = page.getByRole("region", { name: "What explains it" });
  await expect(causes).toContainText(`calls slower than ${inMs(bound)}`);
  const share = (release: string) => slowerThan(release, bound) / callsOf(release);
  await expect(causes).toContainText(ofAll(share("2.1.0")));
  await expect(causes).toContainText(signed(share("2.1.0") - share("2.0.0"), "points"));
  const first = causes.getByRole("listitem").first();
  await expect(first).toContainText("Brindle");
  await expect(first).toContainText("/hides/{id}");
  await expect(first).toContainText(signed(partOf(bound, planted), "points"));
});

test("values, like for like, where calls lie and memory: each as worked out from what was sent", async ({ page }) => {
  await page.goto(`${ADDRESS()}&by=depot`);
  const failed: Chosen = ({ status }) => status === 500;
  for (const depot of DEPOTS) {
    const own: Chosen = (one) => one.depot === depot;
    const row = page.getByRole("row").filter({ has: page.getByRole("rowheader", { name: depot, exact: true }) });
    for (const release of ["2.1.0", "2.0.0"]) {
      await expect(row).toContainText(ofAll(callsOf(release, own) / callsOf(release)));
      await expect(row).toContainText(inMs(quantile(release, 0.95, own)));
      await expect(row).toContainText(
        ofAll(callsOf(release, (one) => own(one) && failed(one)) / callsOf(release, own)),
      );
    }
  }
  // Like for like: each depot as often as the baseline has it.
  const weight = ({ depot }: Combination) => {
    const own: Chosen = (one) => one.depot === depot;
    return callsOf("2.0.0", own) / callsOf("2.1.0", own);
  };
  const alike = quantileIn(countsIn("2.1.0", everything, weight), 0.95) / quantile("2.0.0", 0.95) - 1;
  await expect(page.getByRole("columnheader", { name: /Like for like/ })).toContainText("depot");
  await expect(line(page, "p95").getByRole("cell").last()).toContainText(`${signed(alike, "%")}, slower`);
  // Distances of the two distributions, by small steps.
  const [ours, theirs] = ["2.1.0", "2.0.0"].map((release) => countsIn(release, everything));
  const below = (counts: readonly number[], value: number) => {
    const all = counts.reduce((total, count) => total + count, 0);
    const inside = BOUNDS.findIndex((bound) => bound >= value - 1e-12);
    const upTo = counts.slice(0, inside).reduce((total, count) => total + count, 0);
    const low = inside === 0 ? 0 : BOUNDS[inside - 1];
    return (upTo + (counts[inside] * (value - low)) / (BOUNDS[inside] - low)) / all;
  };
  const apart = BOUNDS.map((bound) => Math.abs(below(ours, bound) - below(theirs, bound)));
  const greatest = Math.max(...apart);
  const fine = 2e-5;
  let moved = 0;
  for (let value = fine / 2; value < BOUNDS[BOUNDS.length - 1]; value += fine)
    moved += Math.abs(below(ours, value) - below(theirs, value)) * fine;
  const shape = page.getByRole("region", { name: "Where calls lie" });
  await expect(shape).toContainText(
    `${ofAll(greatest)} of calls lie on another side of ${inMs(BOUNDS[apart.indexOf(greatest)])}; on average they moved by ${inMs(moved)}`,
  );
  const memory = line(page, "memory per instance");
  await expect(memory).toContainText(`${figures(1.38e8 / 2 ** 20)} MiB`);
  await expect(memory).toContainText(`${figures(1e8 / 2 ** 20)} MiB`);
  await expect(memory).toContainText("+38 %");
  await expect(memory).toContainText("more");
});

test("names that an address has to write otherwise are those that were sent", async () => {
  const body = { service: "tannery/hides & co", version: "feature/x+1 100%", environment: "", share: 0.5 };
  const headers = { "Content-Type": "application/json" };
  const answer = await fetch(`${WEB}/api/releases`, { method: "POST", headers, body: JSON.stringify(body) });
  expect(answer.status).toBe(200);
  const place = `${encodeURIComponent(body.service)}/${encodeURIComponent(body.version)}`;
  const verdict = await fetch(`${WEB}/api/releases/${place}/verdict`);
  expect(verdict.status).toBe(200);
  expect(await verdict.json()).toMatchObject({ service: body.service, release: body.version, heard: false });
  expect((await fetch(`${WEB}/api/releases/a%00b/1/verdict`)).status).toBe(400);
});

test("the page is held to the cause, and let go again", async ({ page }) => {
  await page.goto(ADDRESS());
  const causes = page.getByRole("region", { name: "What explains it" });
  await causes.getByRole("listitem").first().getByRole("button").click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("only calls with");
  const held = quantile("2.1.0", 0.95, planted);
  await expect(line(page, "p95")).toContainText(inMs(held));
  await expect(line(page, "p95")).toContainText(signed(held / quantile("2.0.0", 0.95, planted) - 1, "%"));
  for (const one of await page.getByRole("button", { name: /^no more only/ }).all()) {
    await expect(one).toBeVisible();
  }
  await page.goBack();
  await expect(line(page, "p95")).toContainText(inMs(quantile("2.1.0", 0.95)));
  // The values of an attribute: held to another route, both are equally quick.
  const values = page.getByRole("button", { name: "/hides", exact: true });
  await page.getByRole("button", { name: "attribute", exact: false }).first().click();
  await page.getByRole("option", { name: /http\.route/ }).click();
  await values.click();
  await expect(line(page, "p95")).toContainText("as quick");
});

test("a comparison that takes a while says so, and for how long", async ({ page }) => {
  await page.goto(ADDRESS());
  await expect(page.getByRole("row").filter({ hasText: "p95" }).first()).toBeVisible();
  await expect(page.getByRole("progressbar")).toHaveCount(0);
  let go = () => {};
  const held = new Promise<void>((resolve) => {
    go = resolve;
  });
  await page.route(/\/api\/comparison\?/, async (route) => {
    await held;
    await route.continue();
  });
  await page
    .getByRole("region", { name: "What explains it" })
    .getByRole("listitem")
    .first()
    .getByRole("button")
    .click();
  await expect(page.getByText(/^Comparing the minutes of both… [12] s$/)).toBeVisible();
  go();
  await expect(page.getByRole("progressbar")).toHaveCount(0);
});

test("the report is copied, and kept figures stay as they are", async ({ page, context }) => {
  await context.grantPermissions(["clipboard-read", "clipboard-write"]);
  await page.goto(ADDRESS());
  await page.getByRole("button", { name: "copy", exact: true }).click();
  await expect(page.getByText("copied as Markdown")).toBeVisible();
  const report = await page.evaluate(() => navigator.clipboard.readText());
  expect(report).toContain("# tannery 2.1.0 against 2.0.0");
  const p95 = quantile("2.1.0", 0.95);
  expect(report).toMatch(new RegExp(`\\| p95 \\| ${inMs(p95)} \\| ${inMs(quantile("2.0.0", 0.95))} \\|`));
  expect(report).toContain("depot = Brindle");
  expect(report).toContain("block bootstrap");
  await page.getByRole("button", { name: "keep its figures" }).click();
  await expect(page.getByText(/kept; its address is copied/)).toBeVisible();
  const address = await page.evaluate(() => navigator.clipboard.readText());
  await page.goto(address);
  await expect(page.getByText(/Figures as .* kept them/)).toBeVisible();
  await expect(line(page, "p95")).toContainText(inMs(p95));
});

test("a deployment waits at the gate: what is found, what is not, and what is not known", async () => {
  const since = ["--against", "2.0.0"];
  expect(await command(...VERDICT, ...since)).toMatchObject({ code: 2, told: expect.stringContaining("slower") });
  expect((await command(...VERDICT, ...since, "--fail-on", "more-errors")).code).toBe(0);
  const json = await command(...VERDICT, "--json");
  expect(JSON.parse(json.out)).toMatchObject({
    release: "2.1.0",
    against: "2.0.0",
    words: ["slower", "as many errors"],
  });
  expect(await command("verdict", "tannery", "9.9.9", "--environment", "workshop")).toMatchObject({ code: 1 });
  expect((await command(...VERDICT, "--fail-on", "everything")).told).toContain("slower, more-errors");
  // A release of a minute: nobody can tell, and nobody guesses. It waits as long as it may.
  await post(requestOf("2.2.0", end));
  const began = Date.now();
  const young = await command("verdict", "tannery", "2.2.0", "--environment", "workshop", "--wait", "3s");
  expect(young).toMatchObject({ code: 3, told: expect.stringContaining("not enough yet") });
  expect(Date.now() - began).toBeGreaterThan(2900);
});

test("home has the worst first, with its reason, before anybody asked", async ({ page }) => {
  await expect
    .poll(
      async () => {
        const { services } = (await (await fetch(`${WEB}/api/home`)).json()) as {
          services: { service: string; lookedAt: number | null }[];
        };
        return services.find(({ service }) => service === "tannery")?.lookedAt ?? 0;
      },
      { timeout: 120_000 },
    )
    .toBeGreaterThan(announcedAt);
  await page.goto("/");
  const row = page.getByRole("listitem").filter({ has: page.getByRole("link", { name: "tannery", exact: true }) });
  await expect(row).toBeVisible();
  await expect(row).toContainText("workshop");
});

test("how a team looks at releases is kept with the service", async ({ page }) => {
  await page.goto(`/releases?service=tannery&environment=workshop&${FIXED()}`);
  await page.getByRole("button", { name: "tolerance of latency" }).click();
  await page.getByRole("option", { name: "20 %" }).click();
  await expect(page.getByRole("button", { name: "tolerance of latency" })).toHaveText(/20 %/);
  await page.getByRole("button", { name: "own measure" }).click();
  await page.keyboard.type(
    'calls at Brindle = count of http.server.request.duration where depot is "Brindle" by release',
  );
  await page.getByRole("option", { name: /^Use/ }).click();
  const head = page.getByRole("columnheader", { name: "calls at Brindle" });
  await expect(head).toBeVisible();
  const rungs = page.getByRole("row").filter({ has: page.getByRole("rowheader") });
  const text = 'count of http.server.request.duration where depot is "Brindle" and service is "tannery" by release';
  const { series } = await read(text, begin, end);
  const counted = series.find(({ labels }) => labels["service.version"] === "2.0.0")!.total!;
  await expect(rungs.filter({ hasText: "2.0.0" }).last()).toContainText(
    `${figures(counted / (counted >= 1e6 ? 1e6 : 1e3))}`,
  );
  await page.getByRole("button", { name: "what each is held against" }).click();
  await page.getByRole("option", { name: "the one that serves beside it" }).click();
  await expect(page.getByText("each against the one that serves beside it")).toBeVisible();
  expect(INTAKE).toBeTruthy();
});

test("who releases every half hour sees the newest first, and any earlier window in its order", async ({ page }) => {
  const EACH = 30 * MINUTE;
  const COUNT = 300;
  const last = Math.floor(Date.now() / EACH) * EACH;
  const name = (i: number) => `build ${(i * 7919) % 1000}`;
  const servesTo = (i: number) => last - (COUNT - 1 - i) * EACH;
  const text = (key: string, value: string) => ({ key, value: { stringValue: value } });
  const resourceMetrics = Array.from({ length: COUNT }, (_, i) => {
    const attributes = [text("service.name", "ropewalk"), text("service.version", name(i))];
    const dataPoints = [0, 1, 2].map((k) => ({
      startTimeUnixNano: `${servesTo(i) - (3 - k) * 8 * MINUTE}000000`,
      timeUnixNano: `${servesTo(i) - (2 - k) * 8 * MINUTE}000000`,
      count: "40",
      bucketCounts: ["20", "20", "0"],
      explicitBounds: [0.1, 0.2],
    }));
    const histogram = { aggregationTemporality: 1, dataPoints };
    const metrics = [{ name: "http.server.request.duration", unit: "s", histogram }];
    return { resource: { attributes }, scopeMetrics: [{ metrics }] };
  });
  await post({ resourceMetrics });
  interface Found {
    older: number;
    rungs: { release: string; calls: number; change: { against: string } | null }[];
  }
  const ladder = async (from: number, to: number) => {
    const query = new URLSearchParams({ service: "ropewalk", from: String(from), to: String(to) });
    return (await (await fetch(`${WEB}/api/ladder?${query}`)).json()) as Found;
  };
  const all = await ladder(servesTo(0) - EACH, last);
  expect(all.rungs.map(({ release }) => release)).toEqual(Array.from({ length: 60 }, (_, i) => name(COUNT - 1 - i)));
  expect(all.older).toBe(COUNT - 60);
  // Ten releases that are none of the newest two hundred.
  const early = await ladder(servesTo(19), servesTo(29));
  expect(early.rungs.map(({ release }) => release)).toEqual(Array.from({ length: 10 }, (_, i) => name(29 - i)));
  expect(early.rungs.every(({ calls }) => calls === 120)).toBe(true);
  for (const [i, { change }] of early.rungs.slice(0, 9).entries()) expect(change?.against).toBe(name(28 - i));
  const place = new URLSearchParams({ service: "ropewalk", from: String(servesTo(19)), to: String(servesTo(29)) });
  const rail = (await (await fetch(`${WEB}/api/rail?${place}`)).json()) as { marks: { release: string }[] };
  expect(rail.marks.map(({ release }) => release).sort()).toEqual(
    Array.from({ length: 10 }, (_, i) => name(20 + i)).sort(),
  );
  await page.goto(`/releases?service=ropewalk&from=${servesTo(0) - EACH}&to=${last}`);
  await expect(page.getByText("300 releases in this window")).toBeVisible();
  await expect(page.getByText("240 older releases are left out")).toBeVisible();
});

test("the time rail tells the calls that were sent, by the hour where it spans days", async () => {
  const EACH = 10 * MINUTE;
  const HOUR = 60 * MINUTE;
  const end = Math.floor(Date.now() / HOUR) * HOUR - 2 * HOUR;
  const begin = end - 3 * 24 * HOUR;
  const callsOf = (at: number) => 100 + ((at / EACH) % 7) * 13;
  const dataPoints = Array.from({ length: (end - begin) / EACH }, (_, i) => {
    const at = begin + (i + 1) * EACH;
    return {
      startTimeUnixNano: `${at - EACH}000000`,
      timeUnixNano: `${at}000000`,
      count: String(callsOf(at)),
      bucketCounts: [String(callsOf(at)), "0"],
      explicitBounds: [1],
    };
  });
  const attributes = [
    { key: "service.name", value: { stringValue: "chandlery" } },
    { key: "service.version", value: { stringValue: "1.0.0" } },
  ];
  const histogram = { aggregationTemporality: 1, dataPoints };
  const metrics = [{ name: "http.server.request.duration", unit: "s", histogram }];
  await post({ resourceMetrics: [{ resource: { attributes }, scopeMetrics: [{ metrics }] }] });
  const rail = async (from: number, to: number) => {
    const query = new URLSearchParams({ service: "chandlery", environment: "", from: String(from), to: String(to) });
    return (await (await fetch(`${WEB}/api/rail?${query}`)).json()) as { times: number[]; traffic: number[] };
  };
  const told = (from: number, times: readonly number[]) =>
    times.map((time, i) => {
      const since = i === 0 ? from : times[i - 1];
      let calls = 0;
      for (let at = Math.ceil(since / EACH) * EACH; at < time + EACH; at += EACH) {
        // Of a report that reaches beyond the step, the part that lies in it.
        const inside = Math.min(at, time) - Math.max(at - EACH, since);
        if (inside > 0) calls += (callsOf(at) * inside) / EACH;
      }
      return calls / ((time - since) / 1000);
    });
  const near = (values: readonly number[]) => values.map((value) => Math.round(value * 1e9) / 1e9);
  // From the middle of an hour on.
  const days = await rail(begin + 20 * MINUTE, end);
  expect(days.times).toHaveLength(72);
  expect(days.times.every((time) => time % HOUR === 0)).toBe(true);
  expect(near(days.traffic)).toEqual(near(told(begin + 20 * MINUTE, days.times)));
  const day = await rail(end - 24 * HOUR, end);
  expect(day.times).toHaveLength(288);
  expect(near(day.traffic)).toEqual(near(told(end - 24 * HOUR, day.times)));
});

test("who reports no calls is looked at again soon, who does and released nothing lately seldom", async () => {
  const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL });
  const now = Date.now();
  const environment = "looked at";
  const content = { from: now - 1, to: now, serving: [], errors: null, verdict: null };
  const looked = [
    ["mute", null, 2],
    ["mute for long", null, 4],
    ["busy", 5, 14],
    ["busy for long", 5, 16],
  ] as const;
  try {
    for (const [service, rate, minutes] of looked) {
      await noteOutlook(pool, { service, environment }, now - minutes * MINUTE, { ...content, rate });
      await pool.query(
        "INSERT INTO release (service, environment, version, first_at, last_at) VALUES ($1, $2, '1', $3, $4)",
        [service, environment, now - 3 * 24 * 60 * MINUTE, now],
      );
    }
    const due = (await servicesDue(pool, now)).filter((one) => one.environment === environment);
    // The watch of this run looks too: who was due may have been looked at in between.
    const names = due.map(({ service }) => service);
    expect(["mute", "busy"].filter((name) => names.includes(name))).toEqual([]);
    const { rows } = await pool.query<{ service: string }>(
      "SELECT service FROM service_outlook WHERE environment = $1 AND at >= $2",
      [environment, now - MINUTE],
    );
    const again = rows.map(({ service }) => service);
    expect([...new Set([...names, ...again])].sort()).toEqual(["busy for long", "mute for long"]);
  } finally {
    for (const table of ["service_outlook", "service_drift", "release"])
      await pool.query(`DELETE FROM ${table} WHERE environment = $1`, [environment]);
    await pool.end();
  }
});
