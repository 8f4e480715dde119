import http from "node:http";
import type { AddressInfo } from "node:net";
import { OTLPMetricExporter } from "@opentelemetry/exporter-metrics-otlp-grpc";
import { CompressionAlgorithm } from "@opentelemetry/otlp-exporter-base";
import { resourceFromAttributes } from "@opentelemetry/resources";
import { MeterProvider, PeriodicExportingMetricReader } from "@opentelemetry/sdk-metrics";
import { expect, test } from "@playwright/test";
import { FRESH, freePort, INTAKE, killHard, read, startIntake, WEB } from "./helpers";

test("a service with the real SDK over gRPC: from Add a source to its chart", async ({ page }) => {
  await page.goto("/services/add");
  await page.getByLabel("service", { exact: true }).fill("bookbinder");
  await expect(page.getByText("Listening for bookbinder")).toBeVisible();
  const provider = new MeterProvider({
    resource: resourceFromAttributes({
      "service.name": "bookbinder",
      "service.version": "2.1.0",
      "deployment.environment.name": "workshop",
      "service.instance.id": "bench-1",
      "telemetry.sdk.language": "nodejs",
    }),
    readers: [
      new PeriodicExportingMetricReader({
        exporter: new OTLPMetricExporter({ url: `http://127.0.0.1:${process.env.TIN_INTAKE_GRPC_PORT}` }),
        exportIntervalMillis: 1000,
      }),
    ],
  });
  const bound = provider.getMeter("bindery").createCounter("book.bound", { unit: "{book}" });
  const timer = setInterval(() => bound.add(2, { cloth: "green" }), 200);
  try {
    await expect(page.getByText(/points? from bookbinder/)).toBeVisible();
    await page.getByRole("link", { name: "book.bound" }).click();
    await expect(page).toHaveURL(/reading=/);
    await expect(page.locator("[data-drawn='true']").first()).toBeVisible();
  } finally {
    clearInterval(timer);
    await provider.shutdown();
  }
  await page.goto("/services?last=15m");
  await expect(page.getByRole("row").filter({ hasText: "bench-1" })).toContainText("2.1.0");
});

test("a page of OpenMetrics: tried, chosen from, saved, scraped, charted", async ({ page }) => {
  let turns = 0;
  const server = http.createServer((_, response) => {
    turns++;
    response.setHeader("Content-Type", "application/openmetrics-text; version=1.0.0");
    response.end(
      `# TYPE press counter\npress_total{side="left"} ${turns * 10}\npress_total{side="right"} ${turns}\n# TYPE ink_litres gauge\nink_litres 7.5\n# EOF\n`,
    );
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", () => resolve()));
  const { port } = server.address() as AddressInfo;
  try {
    await page.goto("/services/add?way=scrape");
    await page.getByLabel("address").fill("http://127.0.0.1:1/metrics");
    await page.getByRole("button", { name: "Try it" }).click();
    await expect(page.getByRole("alert").filter({ hasText: "The connection was refused" })).toBeVisible();
    await page.getByLabel("address").fill(`http://127.0.0.1:${port}/metrics`);
    await page.getByLabel("service", { exact: true }).fill("printer");
    await page.getByLabel("interval in seconds").fill("1");
    await page.getByLabel("timeout in seconds").fill("1");
    await page.getByRole("button", { name: "Try it again" }).click();
    await expect(page.getByText("2 of 2 metrics")).toBeVisible();
    await page.getByLabel("collect ink_litres").uncheck();
    await expect(page.getByText("1 of 2 metrics")).toBeVisible();
    await page.getByRole("button", { name: "Save and scrape" }).click();
    await expect(page.getByText(/points? from printer/)).toBeVisible();
    await page.getByRole("link", { name: "press", exact: true }).click();
    await expect(page.locator("[data-drawn='true']").first()).toBeVisible();
    const { instruments } = (await (await fetch(`${WEB}/api/instruments`, FRESH)).json()) as {
      instruments: { name: string }[];
    };
    expect(instruments.some(({ name }) => name === "ink_litres")).toBe(false);
    const now = Date.now();
    await expect
      .poll(async () => (await read("last of tin.scrape.answered by target", now - 60_000, now + 60_000, "2m")).series)
      .toContainEqual(expect.objectContaining({ labels: { target: "printer" } }));
    await page.goto("/services/targets");
    await page.getByRole("button", { name: "delete printer" }).click();
    await expect(page.getByRole("button", { name: "delete printer" })).toHaveCount(0);
    await page.getByRole("button", { name: "scrape it again" }).click();
    await expect(page.getByRole("row").filter({ hasText: "printer" })).toContainText("answers");
    await page.getByRole("button", { name: "delete printer" }).click();
    await expect(page.getByText(/^printer at .* is not scraped any more/)).toBeVisible();
  } finally {
    server.close();
    server.closeAllConnections();
  }
});

test("a key is shown once; without it, senders are turned away and listed", async ({ page }) => {
  const send = (authorization?: string) =>
    fetch(`${INTAKE}/v1/metrics`, {
      method: "POST",
      headers: { "Content-Type": "application/json", ...(authorization ? { Authorization: authorization } : {}) },
      body: "{}",
    });
  await page.goto("/settings/keys");
  await page.getByLabel("who will use it").fill("binders");
  await page.getByLabel("what is sent with it belongs to the environment").fill("workshop");
  await page.getByRole("button", { name: "Make a key" }).click();
  const text = (await page.locator("p.select-all").textContent())!;
  expect(text).toMatch(/^tin_[\w-]{32}$/);
  try {
    await page.request.put("/api/senders", { data: { needed: true } });
    await expect.poll(async () => (await send()).status).toBe(401);
    expect((await send(`Bearer ${text}`)).status).toBe(200);
    await page.goto("/services/senders");
    await expect(page.getByText("a key is needed and none was sent").first()).toBeVisible();
    await expect(page.getByRole("row", { name: /binders/ })).toContainText("workshop");
    await page.getByRole("link", { name: "make or revoke one" }).click();
    await page.getByRole("button", { name: "revoke binders" }).click();
    await page.getByRole("button", { name: "Revoke it" }).click();
    await expect.poll(async () => (await send(`Bearer ${text}`)).status).toBe(401);
  } finally {
    await page.request.put("/api/senders", { data: { needed: false } });
  }
  await expect.poll(async () => (await send()).status).toBe(200);
  await page.reload();
  await expect(page.getByText(text)).toBeHidden();
});

interface Instance {
  instance: string;
  service: string;
  every: number | null;
  lastAt: number;
  pointsPerMinute: number;
}

async function instancesOf(service: string): Promise<Instance[]> {
  const now = Date.now();
  const answer = await fetch(`${WEB}/api/services?from=${now - 3600_000}&to=${now + 60_000}`);
  const { instances } = (await answer.json()) as { instances: Instance[] };
  return instances.filter((one) => one.service === service);
}

test("packed by gRPC's own gzip, counted by the minute, and silent within three of its intervals", async ({ page }) => {
  const exporter = new OTLPMetricExporter({
    url: `http://127.0.0.1:${process.env.TIN_INTAKE_GRPC_PORT}`,
    compression: CompressionAlgorithm.GZIP,
  });
  // When exports were answered: a busy machine exports less often than it should.
  const answered: number[] = [];
  const send = exporter.export.bind(exporter);
  exporter.export = (metrics, done) =>
    send(metrics, (result) => {
      if (result.code === 0) answered.push(Date.now());
      done(result);
    });
  const provider = new MeterProvider({
    resource: resourceFromAttributes({ "service.name": "bell-founder", "service.instance.id": "tower" }),
    readers: [new PeriodicExportingMetricReader({ exporter, exportIntervalMillis: 1000 })],
  });
  const rung = provider.getMeter("tower").createCounter("bell.rung");
  const timer = setInterval(() => {
    rung.add(1, { bell: "tenor" });
    rung.add(1, { bell: "treble" });
  }, 250);
  await expect.poll(async () => (await instancesOf("bell-founder"))[0]?.every ?? 0).toBeGreaterThan(800);
  // Two points an export in the last full minute, give or take the exports at its ends.
  const off = async () => {
    const { pointsPerMinute } = (await instancesOf("bell-founder"))[0];
    const minute = Math.floor(Date.now() / 60_000) * 60_000;
    const exports = answered.filter((at) => at >= minute - 60_000 && at < minute).length;
    return answered[0] < minute - 60_000 && exports > 10 ? Math.abs(pointsPerMinute - 2 * exports) : null;
  };
  await expect.poll(async () => ((await off()) ?? 999) <= 8, { timeout: 150_000, intervals: [2000] }).toBe(true);
  clearInterval(timer);
  await provider.shutdown();
  const [{ every }] = await instancesOf("bell-founder");
  expect(every).toBeLessThan(1500);
  await page.goto("/services?last=15m");
  await expect(page.getByRole("row").filter({ hasText: "tower" })).toContainText(/silent/);
});

test("a secret is used and never shown; another intake goes on scraping when the one at it is killed", async () => {
  const asked: number[] = [];
  const server = http.createServer((request, response) => {
    if (request.headers.authorization !== "Bearer hush-hush") response.statusCode = 403;
    else asked.push(Date.now());
    response.setHeader("Content-Type", "text/plain; version=0.0.4");
    response.end(`# TYPE bobbins_total counter\nbobbins_total ${asked.length}\n`);
  });
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", () => resolve()));
  const { port } = server.address() as AddressInfo;
  const target = {
    name: "bobbins",
    url: `http://127.0.0.1:${port}/metrics`,
    every: 1000,
    timeout: 1000,
    auth: "bearer",
    username: "",
    secret: "hush-hush",
    labels: {},
    choice: { type: "all" },
    paused: false,
  };
  const others = [await startIntake(await freePort()), await startIntake(await freePort())];
  const made = await fetch(`${WEB}/api/targets`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(target),
  });
  expect(made.status).toBe(201);
  const { id } = (await made.json()) as { id: number };
  try {
    await expect.poll(() => asked.length).toBeGreaterThan(3);
    for (const path of ["/api/targets", "/api/senders", "/api/services?from=0&to=1", "/services/targets"])
      expect(await (await fetch(`${WEB}${path}`)).text()).not.toContain("hush-hush");
    // Whichever of the three holds the targets: two of them go, and somebody goes on.
    for (const one of others) {
      await killHard(one);
      const before = asked.length;
      await expect.poll(() => asked.length).toBeGreaterThan(before + 3);
    }
    // Nobody scrapes twice: a second apart, but for the moment of taking over.
    const near = asked.filter((time, i) => i > 0 && time - asked[i - 1] < 500);
    expect(near.length).toBeLessThanOrEqual(2);
    const now = Date.now();
    await expect
      .poll(async () => (await read("count of bobbins", now - 600_000, Date.now() + 1000, "1h")).series[0]?.total ?? 0)
      .toBeGreaterThan(6);
  } finally {
    await fetch(`${WEB}/api/targets/${id}`, { method: "DELETE" });
    server.close();
    server.closeAllConnections();
    for (const one of others) if (one.exitCode === null && one.signalCode === null) await killHard(one);
  }
});

test("a list of hundreds of services: what is near what is seen is drawn, and anything is found by typing", async ({
  page,
}) => {
  const SERVICES = 400;
  const name = (i: number) => `mill-${String(i).padStart(3, "0")}`;
  await page.route("**/api/services?*", async (route) => {
    const now = Date.now();
    const instances = Array.from({ length: SERVICES * 5 }, (_, i) => ({
      service: name(Math.floor(i / 5)),
      release: i % 5 < 3 ? "2.0" : "1.9",
      environment: "workshop",
      instance: `wheel-${i}`,
      attributes: { "host.name": `sluice-${i % 7}` },
      firstAt: now - 3_600_000,
      // Those of the release before are gone, and one of what serves has fallen silent.
      lastAt: i % 5 >= 3 || i === 600 ? now - 600_000 : now - 1000,
      every: 10_000,
      pointsPerMinute: i === 700 ? 5000 : 60,
      points: 1000,
      series: 10,
    }));
    await route.fulfill({ json: { instances } });
  });
  await page.goto("/sheets");
  await page.locator("nav a[href^='/services']").click();
  const rows = page.getByRole("row");
  await expect(page.getByText("2,000 instances heard")).toContainText(`${SERVICES * 2 + 1} silent now`);
  await expect(page.getByRole("link", { name: name(0) })).toBeVisible();
  expect(await rows.count()).toBeLessThan(150);
  // To the end, where the last group stands whole; and back to the top.
  const main = page.locator("#main");
  await expect(async () => {
    await main.evaluate((element) => element.scrollTo(0, element.scrollHeight));
    await expect(page.getByRole("link", { name: name(SERVICES - 1) })).toBeInViewport({ timeout: 500 });
  }).toPass();
  await expect(page.getByRole("link", { name: name(0) })).toHaveCount(0);
  const last = page.getByRole("rowgroup").filter({ hasText: name(SERVICES - 1) });
  await expect(last.getByRole("row")).toHaveText([
    /mill-399 *5 instances in workshop, 2 silent/,
    /wheel-1995/,
    /wheel-1996/,
    /wheel-1997/,
    /2 instances of earlier releases/,
  ]);
  await last.getByRole("button", { name: "2 instances of earlier releases" }).click();
  await expect(last.getByRole("row")).toHaveCount(7);
  expect(await rows.count()).toBeLessThan(150);
  // Whoever sends most comes first, and who is silent.
  await page.getByRole("button", { name: "points/min" }).click();
  await main.evaluate((element) => element.scrollTo(0, 0));
  await expect(page.getByRole("rowgroup").filter({ hasText: "mill-" }).first()).toContainText("mill-140");
  await page.getByLabel("Find services and instances").fill("mill-12 sluice-5");
  const wanted = Array.from({ length: SERVICES * 5 }, (_, i) => i).filter(
    (i) => name(Math.floor(i / 5)).includes("mill-12") && i % 7 === 5,
  );
  await expect(page.getByText("of 2,000 instances heard")).toContainText(`${wanted.length} of 2,000`);
  await expect(page).toHaveURL(/find=mill-12/);
  await page.getByLabel("Find services and instances").fill("wheel-600");
  await expect(rows.filter({ hasText: "wheel-600" })).toContainText("◆ silent for 10 min");
  await page.getByLabel("Find services and instances").fill("no such wheel");
  await page.getByRole("button", { name: "Show all 2,000" }).click();
  await expect(page.getByText("2,000 instances heard")).toBeVisible();
});
