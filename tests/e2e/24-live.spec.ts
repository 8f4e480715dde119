import { expect, type Page, test } from "@playwright/test";
import { post, WEB } from "./helpers";

/**
 * Pages with charts stay open over five minutes of refreshes while releases and series come and go. The browser's clock
 * runs 20 times as fast: it begins in the past, and what it comes to meet was sent before.
 */

const FAST = 20;
const MINUTES = 5;
const EVERY = 10_000;
/** How far in the past the clock begins, ms. */
const PAST = 7 * 60_000;
const DEPOTS = [
  "Brindle",
  "Candlewick",
  "Nether Pike",
  "Ostler Green",
  "Tolland Cross",
  "Marrow Quay",
  "Old Mill",
  "Weir",
];

const list = (all: Record<string, string>) =>
  Object.entries(all).map(([key, stringValue]) => ({ key, value: { stringValue } }));

/** Releases that each serve for a minute and a half, with series that are there for some of it. */
function metricsOf(from: number, to: number): object {
  const resourceMetrics = [];
  for (let release = 0; from + release * 60_000 < to; release++) {
    const points = (depot: string, d: number) => {
      const found = [];
      for (
        let at = from + release * 60_000 + (d % 4) * 20_000;
        at < from + release * 60_000 + 90_000 && at <= to;
        at += EVERY
      ) {
        if ((at / EVERY + d) % 5 === 0) continue;
        found.push({
          attributes: list({ depot, "http.route": `/${d % 3}` }),
          startTimeUnixNano: `${at - EVERY}000000`,
          timeUnixNano: `${at}000000`,
          count: "4",
          sum: 0.8,
          explicitBounds: [0.1, 0.25, 0.5],
          bucketCounts: ["1", "2", "1", "0"],
        });
      }
      return found;
    };
    resourceMetrics.push({
      resource: { attributes: list({ "service.name": "forge", "service.version": `1.${release}.0` }) },
      scopeMetrics: [
        {
          metrics: [
            {
              name: "http.server.request.duration",
              unit: "s",
              histogram: { aggregationTemporality: 1, dataPoints: DEPOTS.flatMap(points) },
            },
          ],
        },
      ],
    });
  }
  return { resourceMetrics };
}

/** Lets the page's clock begin in the past and run fast. */
async function hurry(page: Page, start: number): Promise<void> {
  await page.addInitScript(
    ({ begin, fast, most }) => {
      const real = Date.now.bind(Date);
      const opened = Number(sessionStorage.getItem("opened") ?? real());
      sessionStorage.setItem("opened", String(opened));
      // It stands still at the end of what was sent, however long the test then takes.
      const now = () => begin + Math.min((real() - opened) * fast, most);
      const Real = Date;
      class Hurried extends Real {
        constructor(...args: [] | [number]) {
          if (args.length === 0) super(now());
          else super(...args);
        }
        static override now() {
          return Math.floor(now());
        }
      }
      window.Date = Hurried as DateConstructor;
      const { setInterval: every, setTimeout: after } = window;
      window.setInterval = ((f: () => void, ms = 0) => every(f, ms >= 1000 ? ms / fast : ms)) as typeof setInterval;
      window.setTimeout = ((f: () => void, ms = 0) => after(f, ms >= 1000 ? ms / fast : ms)) as typeof setTimeout;
    },
    { begin: start, fast: FAST, most: PAST },
  );
}

const READING = encodeURIComponent('p95 of http.server.request.duration where service is "forge" by release, depot');

const PAGES: [string, string][] = [
  ["releases", "/releases?service=forge&last=15m"],
  ["scratch", `/scratch?service=forge&last=15m&reading=${READING}`],
  ["a service", "/services/one?service=forge&last=15m"],
  ["an instrument", "/instruments/one?service=forge&last=15m&metric=http.server.request.duration"],
];

test("pages with charts live through five minutes of refreshes, drags, back and forward", async ({ context }) => {
  const now = Date.now();
  expect(await post(metricsOf(now - 14 * 60_000, now))).toBe(200);
  const errors: string[] = [];
  const open = async ([name, address]: [string, string]) => {
    const page = await context.newPage();
    page.on("pageerror", (error) => errors.push(`${name}: ${error.message}`));
    page.on("console", (message) => {
      if (message.type() === "error") errors.push(`${name}: ${message.text()}`);
    });
    await hurry(page, now - PAST);
    await page.goto(address);
    const chart = page.locator("[data-drawn='true']").first();
    await expect(chart).toBeVisible();
    const drag = async () => {
      await chart.scrollIntoViewIfNeeded();
      const box = (await chart.boundingBox())!;
      await page.mouse.move(box.x + box.width * 0.4, box.y + box.height / 2);
      await page.mouse.down();
      await page.mouse.move(box.x + box.width * 0.6, box.y + box.height / 2, { steps: 4 });
      await page.mouse.up();
    };
    let dragged = 0;
    const home = page.url();
    const end = Date.now() + (MINUTES * 60_000) / FAST;
    // On a slow machine it takes longer until a drag hits a chart that stands still.
    const atMost = end + 60_000;
    for (let round = 0; Date.now() < end || (dragged === 0 && Date.now() < atMost); round++) {
      if (round % 3 === 0 || Date.now() >= end) {
        if (page.url() === home) await drag();
        // A drag that began while a chart came or went may have chosen nothing to go back from.
        await page.waitForURL((url) => url.href !== home, { timeout: 5000 }).catch(() => {});
        if (page.url() !== home) {
          dragged++;
          const chosen = page.url();
          await page.goBack();
          await expect.poll(() => page.url()).toBe(home);
          await page.goForward();
          await expect.poll(() => page.url()).toBe(chosen);
          await page.goBack();
          await expect.poll(() => page.url()).toBe(home);
        }
      }
      await page.mouse.move(500 + (round % 7) * 40, 400);
      await page.waitForTimeout(500);
      await expect(page.getByText(/could not be drawn/)).toHaveCount(0);
    }
    await expect(chart).toBeVisible();
    expect(dragged, name).toBeGreaterThan(0);
    await page.close();
  };
  for (const one of [PAGES.slice(0, 2), PAGES.slice(2)]) await Promise.all(one.map(open));
  expect(errors).toEqual([]);
});

/** A sheet with what comes later than the page: a note, and a table of so many rows that not all are drawn. */
const LATER = {
  name: "Later",
  bands: [
    {
      id: "one",
      title: "",
      plates: [
        { id: "note", title: "", holds: "note", note: "Between **03:10** and 03:24." },
        {
          id: "table",
          title: "By depot and release",
          holds: "readings",
          readings: [{ text: 'count of http.server.request.duration where service is "forge" by depot, release' }],
          look: { as: "table" },
        },
      ],
    },
  ],
};

for (const [whose, zone] of [
  ["the viewer's", "Europe/Berlin"],
  ["another", "America/St_Johns"],
])
  test(`every page comes alive in the browser as the server drew it, by ${whose} clock`, async ({
    context,
    baseURL,
  }) => {
    const now = Date.now();
    expect(await post(metricsOf(now - 600_000, now))).toBe(200);
    const kept = await fetch(`${WEB}/api/sheets`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ id: "later", note: "of a test", sheet: LATER }),
    });
    expect([201, 409]).toContain(kept.status);
    const errors: string[] = [];
    const sheet = "/sheets/one?service=forge&last=15m&sheet=later";
    for (const path of [
      ...PAGES.map(([, address]) => address),
      sheet,
      "/sheets/ready?service=forge&last=15m&ready=calls",
      "/releases/two?service=forge&last=15m&release=1.8.0",
      "/",
      "/services",
      "/services/add",
      "/services/targets",
      "/services/senders",
      "/instruments",
      "/instruments/one",
      "/instruments/define",
      "/pipeline",
      "/scratch",
      "/sheets",
      "/store",
      "/settings",
      "/settings/people",
      "/nowhere",
    ]) {
      const page = await context.newPage();
      page.on("pageerror", (error) => errors.push(`${path}: ${error.message}`));
      await context.addCookies([{ name: "tin-zone", value: encodeURIComponent(zone), url: baseURL! }]);
      await page.goto(path);
      await expect(page.getByRole("heading").first()).toBeVisible();
      // Alive: the browser has told whose clock it goes by.
      await expect
        .poll(() => page.evaluate(() => decodeURIComponent(document.cookie)))
        .toContain("tin-zone=Europe/Berlin");
      if (path === sheet) {
        await expect(page.getByText("Between 03:10 and 03:24.")).toBeVisible();
        await expect(page.locator("main tbody tr[aria-rowindex]").nth(12)).toBeAttached();
      }
      await page.close();
    }
    expect(errors).toEqual([]);
  });

test("an answer that takes longer than the refresh is awaited, and what is chosen meanwhile asked at once", async ({
  page,
}) => {
  const now = Date.now();
  expect(await post(metricsOf(now - 600_000, now))).toBe(200);
  const asked: string[] = [];
  for (const path of ["ladder", "reading", "rail"])
    await page.route(`**/api/${path}?**`, async (route) => {
      asked.push(route.request().url());
      await new Promise((resolve) => setTimeout(resolve, 7000));
      // Given up meanwhile: there is nobody to answer.
      await route.continue().catch(() => {});
    });
  await page.goto("/releases?service=forge&last=15m");
  await expect(
    page
      .getByRole("row")
      .filter({ hasText: /1\.\d\.0/ })
      .first(),
  ).toBeVisible();
  await expect(page.locator("[data-drawn='true']").first()).toBeVisible();
  const before = asked.length;
  await page.goto("/releases?service=forge&last=15m");
  await page.keyboard.press("[");
  await expect.poll(() => asked.slice(before).some((url) => url.includes("ladder"))).toBe(true);
  await page.getByRole("button", { name: /^window/ }).click();
  await page.getByRole("option", { name: "last hour" }).click();
  const isHour = (url: string) => {
    const { searchParams } = new URL(url);
    return url.includes("ladder") && Number(searchParams.get("to")) - Number(searchParams.get("from")) >= 3600_000;
  };
  await expect.poll(() => asked.some(isHour), { timeout: 3000 }).toBe(true);
});

test("what is refused is not asked again at every refresh", async ({ page }) => {
  const asked: string[] = [];
  page.on("request", (request) => {
    if (request.url().includes("/api/reading?")) asked.push(request.url());
  });
  await page.goto(`/scratch?service=forge&last=15m&reading=${encodeURIComponent("rate of never.heard.of")}`);
  await expect(page.getByText("no metric named never.heard.of has arrived")).toBeVisible();
  const before = asked.length;
  await page.waitForTimeout(13_000);
  expect(asked.length - before).toBeLessThanOrEqual(1);
});

test("pointing moves the crosshair of every chart, and draws no chart anew", async ({ page }) => {
  const now = Date.now();
  expect(await post(metricsOf(now - 600_000, now))).toBe(200);
  await page.goto(`/releases?service=forge&from=${now - 600_000}&to=${now}`);
  const charts = page.locator("[data-drawn='true']");
  await expect(charts).toHaveCount(2);
  const boxOf = async () => {
    await charts.first().scrollIntoViewIfNeeded();
    return (await charts.first().boundingBox())!;
  };
  // While the page is still filled, charts move.
  await expect(async () => {
    const { x, y, width, height } = await boxOf();
    await page.mouse.move(x + width * 0.3, y + height / 2);
    await expect(page.locator("[data-crosshair]")).toHaveCount(2, { timeout: 1000 });
  }).toPass();
  const box = await boxOf();
  await page.evaluate(() => {
    const seen = window as unknown as { drawn: number };
    seen.drawn = 0;
    const observer = new MutationObserver((changes) => {
      seen.drawn += changes.length;
    });
    for (const chart of document.querySelectorAll("[data-drawn='true'] > svg"))
      observer.observe(chart, { subtree: true, childList: true, attributes: true });
  });
  const places = new Set<number>();
  for (let i = 0; i < 20; i++) {
    await page.mouse.move(box.x + box.width * (0.3 + i * 0.02), box.y + box.height / 2);
    places.add((await page.locator("[data-crosshair]").last().boundingBox())!.x);
  }
  expect(places.size).toBeGreaterThan(10);
  expect(await page.evaluate(() => (window as unknown as { drawn: number }).drawn)).toBe(0);
});

test("releases are marked with the chart; a window is chosen where the code of frames does not come, and shown where it does", async ({
  page,
}) => {
  const now = Date.now();
  expect(await post(metricsOf(now - 600_000, now))).toBe(200);
  let lost = true;
  const known = new Set<string>();
  await page.route("**/*.js", async (route) => {
    const response = await route.fetch();
    if (!(await response.text()).includes("recharts-wrapper")) return route.fulfill({ response });
    known.add(route.request().url());
    if (lost) return route.abort();
    await route.fulfill({ response });
  });
  let asked = 0;
  page.on("request", (request) => {
    if (known.has(request.url())) asked++;
  });
  const address = `/releases?service=forge&from=${now - 660_000}&to=${now - 120_000}`;
  const chart = page.locator("main [data-drawn='true']").first();
  const open = async () => {
    await page.goto(address);
    await expect(chart.locator("path[data-line]").first()).toBeAttached();
    await chart.scrollIntoViewIfNeeded();
    await chart.hover();
    await expect(page.locator("[data-crosshair]").first()).toBeVisible();
    // What stands on the chart needs no code of its own.
    await expect(chart.locator("[data-mark]").first()).toBeAttached();
    expect([known.size, asked]).toEqual([lost ? 0 : 1, 0]);
  };
  const drag = async (release: boolean) => {
    const box = (await chart.boundingBox())!;
    await page.mouse.move(box.x + box.width * 0.4, box.y + box.height / 2);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width * 0.6, box.y + box.height / 2, { steps: 4 });
    if (release) await page.mouse.up();
  };
  const spanOf = () => {
    const { searchParams } = new URL(page.url());
    return Number(searchParams.get("to")) - Number(searchParams.get("from"));
  };
  await open();
  await drag(true);
  await expect.poll(() => known.size).toBe(1);
  await expect.poll(spanOf).toBeLessThan(200_000);
  await expect(page.getByText("could not be drawn")).toHaveCount(0);

  lost = false;
  await page.goto("about:blank");
  asked = 0;
  await open();
  const [line] = await chart
    .locator("path[data-line]")
    .evaluateAll((lines) => lines.map((one) => one.getAttribute("d")));
  await drag(false);
  await expect(page.locator("main .recharts-reference-area-rect")).toBeVisible();
  await expect(chart.getByText(/^\d\d:\d\d:\d\d–\d\d:\d\d:\d\d, \d+ (s|min)$/)).toBeVisible();
  expect(await chart.locator("path[data-line]").first().getAttribute("d")).toBe(line);
  await page.mouse.up();
  await expect.poll(spanOf).toBeLessThan(200_000);
  await expect(page.locator("main .recharts-wrapper")).toHaveCount(0);
  await page.unrouteAll({ behavior: "ignoreErrors" });
});

test("readings of a page are asked together, and those off the screen are not refreshed", async ({ page }) => {
  const now = Date.now();
  expect(await post(metricsOf(now - 600_000, now))).toBe(200);
  const together: string[][] = [];
  page.on("request", (request) => {
    if (request.url().endsWith("/api/readings/lines"))
      together.push(request.postDataJSON().readings.map(({ text }: { text: string }) => text));
  });
  await page.setViewportSize({ width: 800, height: 480 });
  await page.goto("/services/one?service=forge&last=15m");
  const charts = page.locator("main [data-drawn='true']");
  await expect(charts.first()).toBeVisible();
  const plates = await page.locator("main section.plate").count();
  expect(plates).toBeGreaterThan(3);
  // What came with the document is not asked again; a refresh asks for what is seen, at once.
  together.length = 0;
  await expect.poll(() => together.length).toBeGreaterThan(1);
  const refresh = together.at(-1)!;
  expect(refresh.length).toBeGreaterThan(1);
  expect(refresh.length).toBeLessThan(plates);
  // Scrolled to, the last ones move on too.
  const last = page.locator("main section.plate").last();
  const reading = (await last.locator("p[title]").getAttribute("title"))!;
  expect(refresh).not.toContain(reading);
  await last.scrollIntoViewIfNeeded();
  await expect.poll(() => together.at(-1)!.includes(reading)).toBe(true);
});

test("a reading that the server refuses while it makes the document is told by the page", async ({
  context,
  page,
  baseURL,
}) => {
  const zone = await page.evaluate(() => Intl.DateTimeFormat().resolvedOptions().timeZone);
  await context.addCookies([{ name: "tin-zone", value: encodeURIComponent(zone), url: baseURL! }]);
  const errors: string[] = [];
  page.on("pageerror", (error) => errors.push(error.message));
  await page.goto(
    `/scratch?service=forge&last=15m&reading=${encodeURIComponent("p95 of http.server.request.duration top 0")}`,
  );
  await expect(page.getByRole("alert").first()).toBeVisible();
  await page.goto(
    `/scratch?service=forge&last=15m&reading=${encodeURIComponent("last of http.server.request.duration")}`,
  );
  await expect(page.getByRole("alert").first()).toContainText("has no last");
  expect(errors).toEqual([]);
});

test("on a narrow page the ladder keeps its last column", async ({ page }) => {
  const now = Date.now();
  expect(await post(metricsOf(now - 600_000, now))).toBe(200);
  await page.setViewportSize({ width: 900, height: 700 });
  await page.goto(`/releases?service=forge&from=${now - 600_000}&to=${now}`);
  const last = page.getByRole("columnheader", { name: "Change" });
  await expect(last).toBeVisible();
  await expect
    .poll(async () => {
      const box = (await last.boundingBox())!;
      return box.x + box.width;
    })
    .toBeLessThanOrEqual(900);
});

test("the first answers of a page come with its document", async ({ context, page, baseURL }) => {
  const now = Date.now();
  expect(await post(metricsOf(now - 600_000, now))).toBe(200);
  const zone = await page.evaluate(() => Intl.DateTimeFormat().resolvedOptions().timeZone);
  await context.addCookies([{ name: "tin-zone", value: encodeURIComponent(zone), url: baseURL! }]);
  // Nothing that the page asks by itself is answered: what it shows came with it.
  await page.route("**/api/**", () => {});
  await page.goto(`/releases?service=forge&from=${now - 600_000}&to=${now}`);
  await expect(page.locator("main tbody tr").first()).toBeVisible();
  await expect(page.locator("main [data-drawn='true']")).toHaveCount(2);
  await page.unrouteAll({ behavior: "ignoreErrors" });
});

test("pages stand in their document, by the clock that the viewer's browser told, before any code runs", async ({
  browser,
  baseURL,
}) => {
  const now = Date.now();
  expect(await post(metricsOf(now - 600_000, now))).toBe(200);
  const context = await browser.newContext({
    javaScriptEnabled: false,
    storageState: process.env.TIN_TEST_SESSION,
    baseURL: baseURL!,
  });
  const page = await context.newPage();
  const rows: Record<string, string> = {
    "/services": "main tbody tr",
    "/store": "main tbody tr",
    "/instruments": "main a[href*='metric=']",
    "/": "main a[href*='service=forge']",
    "/services/one?service=forge&last=15m": "main [role='img'] path[data-of]",
    "/releases?service=forge&last=15m": "main [role='img'] path[data-of]",
    [`/scratch?last=15m&reading=${encodeURIComponent('rate of http.server.request.duration where service is "forge"')}`]:
      "main [role='img'] path[data-of]",
  };
  const drawn = async (path: string) => {
    await page.goto(path);
    return page.locator(rows[path]).count();
  };
  // By whose clock it is to be drawn is not known yet.
  for (const path of Object.keys(rows)) expect(await drawn(path), path).toBe(0);
  await context.addCookies([{ name: "tin-zone", value: encodeURIComponent("Asia/Kathmandu"), url: baseURL! }]);
  // What takes long on a busy machine comes behind the document.
  for (const path of Object.keys(rows))
    await expect(async () => expect(await drawn(path), path).toBeGreaterThan(0)).toPass();
  await page.goto("/store");
  await expect(page.getByText("UTC+5:45")).toBeVisible();
  await context.close();
});

test("a chart is gone along by keys and shown as a table; single keys can be switched off", async ({ page }) => {
  const now = Math.floor(Date.now() / 60_000) * 60_000;
  expect(await post(metricsOf(now - 600_000, now))).toBe(200);
  // With its step said: the usual one follows what else reports into the metric meanwhile.
  const text = 'count of http.server.request.duration where service is "forge" by depot every 30s';
  const window = `from=${now - 600_000}&to=${now}`;
  await page.goto(`/scratch?service=forge&${window}&reading=${encodeURIComponent(text)}`);
  const chart = page.getByRole("slider", { name: /^Moment in count of/ });
  await chart.focus();
  await page.keyboard.press("Home");
  const first = (await chart.getAttribute("aria-valuetext"))!;
  await page.keyboard.press("ArrowRight");
  await expect(page.locator("[data-crosshair]")).toHaveCount(1);
  const second = (await chart.getAttribute("aria-valuetext"))!;
  expect(second).not.toBe(first);

  // All series are drawn and stand in the table, with the values of the API.
  const answer = await (
    await page.request.get(`/api/reading?text=${encodeURIComponent(text)}&${window}&zone=UTC`)
  ).json();
  expect(answer.series.length).toBe(DEPOTS.length);
  await page.getByRole("button", { name: "as a table" }).click();
  const table = page.getByRole("region", { name: "Values" });
  await expect(table.getByRole("columnheader")).toHaveCount(DEPOTS.length + 1);
  const rows = await table.getByRole("row").allInnerTexts();
  expect(rows.length).toBe(answer.times.length + 1);
  const oldest = rows
    .at(-1)!
    .split("\t")
    .slice(1)
    .map((one) => (one === "—" ? null : Number.parseFloat(one)));
  const shown = rows[0].split("\t").slice(1);
  for (const { labels, values } of answer.series) {
    // Shown to three figures.
    const wanted = values[0] === null ? null : Number(values[0].toPrecision(3));
    expect(oldest[shown.indexOf(labels.depot)]).toBe(wanted);
  }
  await page.keyboard.press("Escape");

  await page.getByRole("heading", { level: 1 }).click();
  await page.getByRole("button", { name: /^Keys/ }).click();
  await page.getByRole("checkbox", { name: "Single letters and figures are keys" }).uncheck();
  await page.keyboard.press("Escape");
  await page.keyboard.press("6");
  await page.keyboard.press("Control+k");
  await expect(page.getByRole("dialog", { name: "Find" })).toBeVisible();
  expect(page.url()).toContain("/scratch");
});
