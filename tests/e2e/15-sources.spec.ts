import http from "node:http";
import type { AddressInfo } from "node:net";
import { OTLPMetricExporter } from "@opentelemetry/exporter-metrics-otlp-grpc";
import { resourceFromAttributes } from "@opentelemetry/resources";
import { MeterProvider, PeriodicExportingMetricReader } from "@opentelemetry/sdk-metrics";
import { expect, test } from "@playwright/test";
import { INTAKE, read, WEB } from "./helpers";

test("a service with the real SDK over gRPC: from Add a source to its chart", async ({ page }) => {
  test.setTimeout(120_000);
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
    await expect(page.getByText(/points? from bookbinder/)).toBeVisible({ timeout: 30_000 });
    await page.getByRole("link", { name: "book.bound" }).click();
    await expect(page).toHaveURL(/reading=/);
    await expect(page.locator(".recharts-surface").first()).toBeVisible({ timeout: 30_000 });
  } finally {
    clearInterval(timer);
    await provider.shutdown();
  }
  await page.goto("/services?last=15m");
  await expect(page.getByRole("row").filter({ hasText: "bench-1" })).toContainText("2.1.0");
});

test("a page of OpenMetrics: tried, chosen from, saved, scraped, charted", async ({ page }) => {
  test.setTimeout(120_000);
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
    await expect(page.getByText(/points? from printer/)).toBeVisible({ timeout: 30_000 });
    await page.getByRole("link", { name: "press", exact: true }).click();
    await expect(page.locator(".recharts-surface").first()).toBeVisible({ timeout: 30_000 });
    const { instruments } = (await (await fetch(`${WEB}/api/instruments`)).json()) as {
      instruments: { name: string }[];
    };
    expect(instruments.some(({ name }) => name === "ink_litres")).toBe(false);
    const now = Date.now();
    await expect
      .poll(async () => (await read("last of tin.scrape.answered by target", now - 60_000, now + 60_000, "2m")).series)
      .toContainEqual(expect.objectContaining({ labels: { target: "printer" } }));
    await page.goto("/services/targets");
    await page.getByRole("button", { name: "delete printer" }).click();
    await page.getByRole("button", { name: "Delete it" }).click();
    await expect(page.getByRole("button", { name: "delete printer" })).toHaveCount(0);
  } finally {
    server.close();
    server.closeAllConnections();
  }
});

test("a token is shown once; without it, senders are turned away and listed", async ({ page }) => {
  const send = (authorization?: string) =>
    fetch(`${INTAKE}/v1/metrics`, {
      method: "POST",
      headers: { "Content-Type": "application/json", ...(authorization ? { Authorization: authorization } : {}) },
      body: "{}",
    });
  await page.goto("/services/senders");
  await page.getByLabel("who will use it").fill("binders");
  await page.getByLabel("for the environment").fill("workshop");
  await page.getByRole("button", { name: "Make a token" }).click();
  const text = (await page.locator("p.select-all").textContent())!;
  expect(text).toMatch(/^tin_[\w-]{32}$/);
  try {
    await page.request.put("/api/senders", { data: { needed: true } });
    await expect.poll(async () => (await send()).status).toBe(401);
    expect((await send(`Bearer ${text}`)).status).toBe(200);
    await expect(page.getByText("a token is needed and none was sent").first()).toBeVisible();
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
