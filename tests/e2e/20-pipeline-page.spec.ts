import { expect, type Page, test } from "@playwright/test";
import { countOf, freePort, INTAKE, killHard, post, publish, runningAt, startBackend, WEB } from "./helpers";
import { bytesOf, sampleOf, untilSampled } from "./sample";

test.beforeAll(async () => {
  await publish({}, "as it comes");
  expect(await post(countOf("loomery", "warp.strung", 1, Date.now()))).toBe(200);
});

test.afterAll(async () => {
  await publish({}, "nothing any more");
});

async function publishHere(page: Page, note: string): Promise<void> {
  await page.getByLabel("what changes, in a few words").fill(note);
  await page.getByRole("button", { name: "Publish" }).click();
  await expect(page.getByText(new RegExp(`is live since .*${note}`))).toBeVisible();
  const { live } = (await (await fetch(`${WEB}/api/pipeline`)).json()) as { live: { id: number } };
  await expect.poll(() => runningAt(INTAKE)).toBe(live.id);
}

/** Sends spans: every fifth failed, and each carries an address. */
async function sendSpans(count: number): Promise<void> {
  const hex = (digits: number) =>
    Array.from({ length: digits }, () => Math.floor(Math.random() * 16).toString(16)).join("");
  const spans = Array.from({ length: count }, (_, i) => ({
    traceId: hex(32),
    spanId: hex(16),
    name: `GET /looms/${100 + i}`,
    kind: 2,
    startTimeUnixNano: `${Date.now() - 500}000000`,
    endTimeUnixNano: `${Date.now()}000000`,
    attributes: [{ key: "client.address", value: { stringValue: `10.0.0.${i}` } }],
    ...(i % 5 === 0 ? { status: { code: 2 } } : {}),
  }));
  const resource = { attributes: [{ key: "service.name", value: { stringValue: "loomery" } }] };
  const response = await fetch(`${INTAKE}/v1/traces`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ resourceSpans: [{ resource, scopeSpans: [{ spans }] }] }),
  });
  expect(response.status).toBe(200);
}

test("a lane for traces is drafted on the spans of the last minutes, published, and does what it said", async ({
  page,
}) => {
  await publish({}, "as it comes");
  await sendSpans(50);
  await untilSampled({ spans: "/looms" }, 50);
  await page.goto("/pipeline");
  await page.getByRole("region", { name: "The lane for traces" }).getByRole("button").click();
  const lane = page.getByRole("region", { name: "The lane for traces" });
  await lane.getByRole("button", { name: "add a step for traces" }).click();
  await page
    .getByRole("option", { name: /keep only|^keep/ })
    .first()
    .click();
  await lane.getByLabel("condition").fill('span.status is "error" and span.name starts with "GET /looms"');
  const effect = page.getByRole("region", { name: "What becomes of spans" });
  await expect(effect).toContainText(/become 10\b/);
  await expect(effect).toContainText("nothing: dropped");
  // Another: ids in names go.
  await lane.getByRole("button", { name: "add a step for traces" }).click();
  await page.getByPlaceholder("Find a step").fill("fold");
  await page.getByRole("option", { name: /fold values/ }).click();
  await lane.getByLabel("attribute", { exact: true }).fill("span.name");
  await expect(lane).toContainText("10 spans tried");
  await expect(effect).toContainText(/become 10\b/);
  await publishHere(page, "only what fails");
  // The address of the page says which lane is open.
  await expect(page).toHaveURL(/lane=traces/);
  await publish({}, "as it comes again");
});

test("an exporter is added, keeps its secret, sends, and is compared with the store; one that fails says why", async ({
  page,
}) => {
  await publish({}, "as it comes");
  const port = await freePort();
  const backend = await startBackend(port, `/tmp/tin-ladder-${port}.jsonl`);
  await page.goto("/pipeline");
  const exporters = page.getByRole("region", { name: "Exporters", exact: true });
  await exporters.getByRole("button", { name: "add an exporter" }).click();
  await page.getByRole("option", { name: /another backend/ }).click();
  await exporters.getByLabel("address of otlp-1").fill("nowhere");
  await expect(exporters.getByRole("alert")).toContainText("an address that begins with http");
  await expect(page.getByRole("button", { name: "Publish" })).toBeDisabled();
  await exporters.getByLabel("address of otlp-1").fill(`http://127.0.0.1:${port}`);
  await exporters.getByLabel("copy of otlp-1").fill(`http://127.0.0.1:${port}/copy`);
  await exporters.getByLabel("secret headers of otlp-1").fill("Authorization");
  await exporters.getByLabel("Authorization of otlp-1").fill("Bearer of a loom");
  await exporters.getByRole("button", { name: "keep it" }).click();
  await expect(exporters.getByText("Authorization is kept")).toBeVisible();
  await expect(exporters.getByRole("alert")).toHaveCount(0);
  await publishHere(page, "to a second place");
  const now = Date.now();
  for (let i = 0; i < 4; i++)
    expect(await post(countOf("loomery", "weft.laid", 3, now + i, { side: "left" }))).toBe(200);
  await expect(exporters).toContainText(/[1-9]\d* sent/);
  const compare = page.getByRole("region", { name: "Compare two destinations" });
  await compare.getByLabel("reading to compare").fill("count of weft.laid by side");
  await compare.getByRole("button", { name: "Compare", exact: true }).click();
  await expect(compare).toContainText("the same to the last digit");
  await expect(compare.getByRole("row", { name: /left/ })).toContainText("12 item");
  await killHard(backend);
  await post(countOf("loomery", "weft.laid", 3, now + 9, { side: "left" }));
  await expect(exporters).toContainText(/ECONNREFUSED.*tried again at/);
  await expect(page.getByRole("region", { name: "Exporters of metrics" })).toContainText("✕");
  await exporters.getByRole("button", { name: "take otlp-1 out" }).click();
  await publishHere(page, "only the store");
});

test("what a draft does to what people look at: two lines, the largest difference, and what will be empty", async ({
  page,
}) => {
  await publish({}, "as it comes");
  const body = {
    name: "shuttle.thrown",
    kind: "counter",
    unit: "{item}",
    description: "How often the shuttle was thrown",
    service: "loomery",
    instances: 1,
    attributes: [{ name: "side", values: ["left", "right"] }],
  };
  const saved = await fetch(`${WEB}/api/contracts`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ body, note: "agreed", based: 0 }),
  });
  expect(saved.ok).toBe(true);
  const now = Date.now();
  for (let i = 0; i < 40; i++)
    await post(countOf("loomery", "shuttle.thrown", 2, now - 40_000 + i * 1000, { side: i % 2 ? "left" : "right" }));
  await untilSampled({ metric: "shuttle.thrown" }, 40);
  await page.goto("/pipeline");
  const add = async (type: RegExp, condition: string) => {
    await page.getByRole("button", { name: "add a step for metrics" }).click();
    await page.getByRole("option", { name: type }).first().click();
    await page.getByLabel("condition").last().fill(condition);
  };
  await add(/^drop/, 'metric is "shuttle.thrown" and side is "left"');
  const readings = page.getByRole("region", { name: "What people look at" });
  const figure = readings.getByRole("figure", { name: "rate of shuttle.thrown" });
  await expect(figure).toContainText(/furthest apart at .*−\d+\.\d %/);
  for (const name of ["as it runs", "as drafted"])
    await expect(figure.locator("text").filter({ hasText: name }).first()).toBeVisible();
  await page.getByLabel("condition").last().fill('metric is "shuttle.thrown"');
  await expect(figure).toContainText("will be empty");
  await page.getByRole("button", { name: "give it up" }).click();
});

test("points, bytes and cost on the page agree with counting what was tried by hand", async ({ page }) => {
  await publish({}, "as it comes");
  const now = Date.now();
  for (let i = 0; i < 30; i++)
    await post(countOf("loomery", "thread.cut", 1, now - 30_000 + i * 1000, { hue: `hue ${i % 7}` }));
  await untilSampled({ metric: "thread.cut" }, 30);
  const sample = await sampleOf(page);
  await page.goto("/pipeline");
  const does = page.getByRole("region", { name: "What it does" });
  await expect(does).toBeVisible();
  const { points, factor, span } = sample();
  const perMinute = factor * (60_000 / span);
  const series = new Set(points.map((one) => one.series)).size;
  const size = points.reduce((sum, one) => sum + bytesOf(one), 0);
  await expect(does).toContainText(`${series.toLocaleString("en")} series come in, and as many are stored`);
  // What other tests sent in the minutes before is among it: of ten thousand and more, the page writes three figures.
  const arriving = Math.round(points.length * perMinute);
  const written =
    arriving < 10_000 ? arriving.toLocaleString("en-GB") : `${Number((arriving / 1000).toPrecision(3))} k`;
  await expect(does).toContainText(`${written} points a minute`);
  const month = (size * perMinute * 60 * 24 * 30) / 1e9;
  await expect(does).toContainText(`${(series * 0.02 + month * 0.1).toFixed(2)} a month as it runs`);
});

test("a draft is tried on fifty thousand points in the browser", async ({ page }) => {
  await publish({}, "as it comes");
  const began = Date.now();
  const bodyOf = (turn: number) => {
    const dataPoints = Array.from({ length: 5000 }, (_, i) => ({
      asInt: String(turn * 3 + (i % 5)),
      timeUnixNano: `${began - 30_000 + turn * 1000}000000`,
      startTimeUnixNano: `${began - 60_000}000000`,
      attributes: [
        { key: "loom", value: { stringValue: `loom ${i}` } },
        { key: "http.route", value: { stringValue: `/looms/${i % 900}` } },
        { key: "hue", value: { stringValue: i % 2 ? "red" : "blue" } },
      ],
    }));
    const sum = { aggregationTemporality: 2, isMonotonic: true, dataPoints };
    const resource = { attributes: [{ key: "service.name", value: { stringValue: "loomery" } }] };
    return { resourceMetrics: [{ resource, scopeMetrics: [{ metrics: [{ name: "pick.made", unit: "1", sum }] }] }] };
  };
  for (let turn = 0; turn < 14; turn++) {
    expect(await post(bodyOf(turn))).toBe(200);
    // What is put aside is handed on in pieces of a second, and the last pieces that are no more than fifty thousand are read.
    await new Promise((resolve) => setTimeout(resolve, 600));
  }
  await untilSampled({ metric: "pick.made" }, 45_000);
  await page.goto("/pipeline");
  await page.evaluate(() => {
    const step = (id: string, rest: object) => ({ id, on: true, where: 'metric is "pick.made"', ...rest });
    const meet = { gauges: "sum", every: 10 };
    const metrics = [
      step("a", { type: "drop", where: 'hue is "green"' }),
      step("b", { type: "rename", from: "hue", to: "colour" }),
      step("c", { type: "hash", attributes: ["colour"] }),
      step("d", { type: "fold", attribute: "http.route", folds: ["numbers"], own: [], ...meet }),
      step("e", { type: "remove", attributes: ["loom"], ...meet }),
      step("f", { type: "limit", series: 100_000 }),
    ];
    const config = {
      receivers: { otlp: ["metrics", "traces", "logs"], scrape: true },
      metrics,
      traces: [],
      logs: [],
      exporters: [{ id: "store", type: "store", on: true, signals: ["metrics", "traces", "logs"] }],
    };
    localStorage.setItem("tin-ladder pipeline draft", JSON.stringify({ based: 0, config }));
  });
  await page.reload();
  const does = page.getByRole("region", { name: "What it does" });
  await expect(does).toContainText(/tried on \d+\.?\d* k points/, { timeout: 60_000 });
  await expect(page.getByRole("region", { name: "Metrics that change" })).toContainText("→ 2");
  const told = async () => /tried on ([\d.]+) k points.* in ([\d,]+) ms/.exec((await does.textContent()) ?? "") ?? [];
  const [, points, first] = await told();
  await page.getByRole("button", { name: "switch off" }).nth(4).click();
  await expect(page.getByRole("region", { name: "Metrics that change" })).not.toContainText("→ 2");
  await expect.poll(async () => (await told())[2]).not.toBe(first);
  console.log(
    `a draft of six steps on ${points} k points took ${first} ms in the browser's worker, after a change ${(await told())[2]} ms`,
  );
  expect(Number(points)).toBeGreaterThan(40);
  await page.getByRole("button", { name: "give it up" }).click();
});
