import { readFileSync } from "node:fs";
import { expect, test } from "@playwright/test";
import pg from "pg";
import { hammer, wait } from "./hammer";
import { FRESH, freePort, INTAKE, killHard, post, publish, read, startIntake, WEB } from "./helpers";

/** One cumulative counter per locker, as OTLP/JSON. */
function lockers(name: string, count: number, ms: number, start: number, value: (locker: number) => number): object {
  const list = (all: Record<string, string>) =>
    Object.entries(all).map(([key, stringValue]) => ({ key, value: { stringValue } }));
  return {
    resourceMetrics: [
      {
        resource: { attributes: list({ "service.name": "lockers", "service.version": "3.2" }) },
        scopeMetrics: [
          {
            metrics: [
              {
                name,
                unit: "{door}",
                sum: {
                  aggregationTemporality: 2,
                  isMonotonic: true,
                  dataPoints: Array.from({ length: count }, (_, i) => ({
                    asInt: String(value(i)),
                    timeUnixNano: `${ms}000000`,
                    startTimeUnixNano: `${start}000000`,
                    attributes: list({ "locker.id": String(i) }),
                  })),
                },
              },
            ],
          },
        ],
      },
    ],
  };
}

test("series past the limit go to one overflow series, and no count is lost", async () => {
  const port = await freePort();
  const base = `http://127.0.0.1:${port}`;
  const intake = await startIntake(port, { TIN_SERIES_LIMIT: "20" });
  const now = Date.now();
  const start = now + 1000;
  const send = async (step: number) => {
    const body = lockers("door.opened", 50, start + step * 10_000, start, (i) => step * (i + 1));
    const response = await fetch(`${base}/v1/metrics`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify(body),
    });
    return (await response.json()) as { partialSuccess?: { rejectedDataPoints?: number; errorMessage?: string } };
  };
  for (let step = 1; step <= 6; step++) {
    const { partialSuccess } = await send(step);
    expect(Number(partialSuccess?.rejectedDataPoints ?? 0)).toBe(0);
    expect(partialSuccess?.errorMessage).toContain("otel.metric.overflow");
  }
  // Sent twice, counted once.
  await send(6);
  const answer = await read("count of door.opened by locker.id", now - 60_000, start + 60_000, "1m");
  expect(answer.series).toHaveLength(21);
  const all = await read("count of door.opened by release", now - 60_000, start + 60_000, "1m");
  expect(all.series).toHaveLength(1);
  expect(all.series[0].total).toBe(6 * ((50 * 51) / 2));
  const rest = answer.series.find(({ labels }) => labels["locker.id"] === null)!;
  expect(rest.total).toBe(6 * ((50 * 51) / 2 - (20 * 21) / 2));
  const { metrics } = (await (await fetch(`${WEB}/api/store?find=door.opened`, FRESH)).json()) as {
    metrics: { name: string; series: number; overflows: boolean }[];
  };
  expect(metrics.find(({ name }) => name === "door.opened")).toMatchObject({ series: 21, overflows: true });
  await killHard(intake);
});

/** Resident memory of a process, MiB. */
function memoryOf(pid: number): number {
  return Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, "utf8"))![1]) / 1024;
}

test("a database that stalls makes the intake push back, not grow; what it acknowledged is there", async () => {
  const port = await freePort();
  const base = `http://127.0.0.1:${port}`;
  const intake = await startIntake(port, { TIN_WAITING_POINTS: "100000" });
  const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL, max: 1 });
  const bolts = hammer("bolt.fixed", Date.now() - 4 * 3600_000, 4, () => base);
  await wait(500);
  const client = await pool.connect();
  await client.query("BEGIN");
  await client.query("LOCK TABLE strip IN ACCESS EXCLUSIVE MODE");
  // Many more points than may wait, in requests of 2,000 each.
  const statuses: number[] = [];
  const began = Date.now() - 5 * 3600_000;
  let most = 0;
  const pushedBack = () => {
    most = Math.max(most, memoryOf(intake.pid!));
    return statuses.filter((status) => status === 429).length;
  };
  const flooding = async () => {
    const sent: Promise<unknown>[] = [];
    const body = JSON.stringify(lockers("flood.rose", 2000, began, began - 1000, (k) => k));
    for (let i = 0; i < 600 && pushedBack() <= 100; i++) {
      const later = body.replaceAll(`"${began}000000"`, `"${began + i}000000"`);
      sent.push(post(later, base).then((status) => statuses.push(status)));
      // What was written goes out before the next is: a sender that only computes is a slow one.
      await wait(5);
    }
    await Promise.all(sent);
  };
  const flood = flooding();
  await expect.poll(pushedBack, { timeout: 150_000 }).toBeGreaterThan(100);
  expect(statuses.filter((status) => status === 200).length).toBe(0);
  await client.query("ROLLBACK");
  client.release();
  await flood;
  await bolts.stop();
  expect(most).toBeLessThan(1200);
  // A sender that a busy machine makes slow may be cut off (0); nobody is told anything else.
  expect([...new Set(statuses)].filter((status) => status !== 0).sort()).toEqual([200, 429]);
  await bolts.again();
  expect((await bolts.counted())[0].total).toBe(bolts.wanted());
  await pool.end();
  await killHard(intake);
});

test("large requests go in whole, or are too large by name", async () => {
  // What a file before this one left live in the lane may keep a part of the traces only.
  await publish({}, "as it comes");
  const now = Date.now();
  const at = (ms: number) => `${ms}000000`;
  const resource = { attributes: [{ key: "service.name", value: { stringValue: "bulk" } }] };
  const send = async (signal: string, body: object) => {
    const response = await fetch(`${INTAKE}/v1/${signal}`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify(body),
    });
    return { status: response.status, text: await response.text() };
  };
  const logRecords = Array.from({ length: 200_000 }, (_, i) => ({
    timeUnixNano: at(now - 1000),
    body: { stringValue: String(i) },
  }));
  expect(await send("logs", { resourceLogs: [{ resource, scopeLogs: [{ logRecords }] }] })).toEqual({
    status: 200,
    text: "{}",
  });
  const hex = (value: number, length: number) => value.toString(16).padStart(length, "0");
  const spans = (count: number) => ({
    resourceSpans: [
      {
        resource,
        scopeSpans: [
          {
            spans: Array.from({ length: count }, (_, i) => ({
              traceId: hex(i + 1, 32),
              spanId: hex(i + 1, 16),
              name: "s",
              startTimeUnixNano: at(now - 1000),
              endTimeUnixNano: at(now - 900),
            })),
          },
        ],
      },
    ],
  });
  expect(await send("traces", spans(80_000))).toEqual({ status: 200, text: "{}" });
  expect(await send("traces", spans(150_000))).toMatchObject({
    status: 413,
    text: expect.stringContaining("larger than 16 MiB; send smaller batches"),
  });
  const dataPoints = Array.from({ length: 10_000 }, (_, i) => ({
    asInt: "1",
    timeUnixNano: at(now),
    startTimeUnixNano: at(now - 1000),
    attributes: [{ key: "k", value: { stringValue: String(i) } }],
    exemplars: Array.from({ length: 16 }, (_, j) => ({ timeUnixNano: at(now - j), asInt: "1" })),
  }));
  const sum = { aggregationTemporality: 1, isMonotonic: true, dataPoints };
  const metrics = [{ name: "bulk.taken", unit: "1", sum }];
  expect(await send("metrics", { resourceMetrics: [{ resource, scopeMetrics: [{ metrics }] }] })).toEqual({
    status: 200,
    text: "{}",
  });
  expect((await read("count of bulk.taken", now - 60_000, now)).series[0].total).toBe(10_000);
  const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL });
  const counted = async (table: string) => {
    const { rows } = await pool.query<{ count: string }>(
      `SELECT count(*) FROM ${table} JOIN resource r ON r.id = resource_id WHERE r.service = 'bulk'`,
    );
    return Number(rows[0].count);
  };
  expect(await counted("log_record")).toBe(200_000);
  expect(await counted("span")).toBe(80_000);
  await pool.end();
});

test("long names and ones with line breaks push nothing off the pages, and the rail's list of services opens", async ({
  page,
}) => {
  const long = `loans-${"of-a-path-that-somebody-made-a-name-of-".repeat(5)}`.slice(0, 180);
  const release = `1.${"0.".repeat(40)}1`;
  const attribute = (key: string, stringValue: string) => ({ key, value: { stringValue } });
  const now = Date.now();
  const dataPoints = [60_000, 30_000, 0].map((age, i) => ({
    startTimeUnixNano: `${now - 90_000}000000`,
    timeUnixNano: `${now - age}000000`,
    count: String(10 * (i + 1)),
    sum: i + 1,
    explicitBounds: [0.1, 0.5],
    bucketCounts: [String(5 * (i + 1)), String(5 * (i + 1)), "0"],
    attributes: [attribute("http.route", `/${"deep/".repeat(30)}`)],
  }));
  const histogram = { aggregationTemporality: 2, dataPoints };
  const metrics = [{ name: "http.server.request.duration", unit: "s", histogram }];
  const names = [long, "kettle\nand\tlid"];
  const resourceMetrics = names.map((name) => ({
    resource: { attributes: [attribute("service.name", name), attribute("service.version", release)] },
    scopeMetrics: [{ metrics }],
  }));
  expect(await post({ resourceMetrics })).toBe(200);
  await page.setViewportSize({ width: 1280, height: 800 });
  for (const name of names) {
    const query = `?last=15m&service=${encodeURIComponent(name)}`;
    for (const path of [
      `/releases${query}`,
      `/services${query}`,
      `/scratch${query}`,
      "/instruments",
      "/store",
      "/pipeline",
    ]) {
      await page.goto(path);
      await expect(page.getByRole("heading", { level: 1 }), path).toBeVisible();
      await expect(page.getByRole("status", { name: "Reading…" }), path).toHaveCount(0);
      if (path.startsWith("/releases"))
        await expect(page.getByRole("row").filter({ hasText: "1.0.0" }).first()).toBeVisible();
      const beyond = await page.evaluate(() =>
        [...document.querySelectorAll("main *, section[aria-label='Time rail'] *")]
          .filter((one) => one.checkVisibility() && one.getBoundingClientRect().right > window.innerWidth + 1)
          .filter((one) => {
            // What lies in a part of a picture or a text that is cut is not seen.
            const cut = one.closest(".truncate, svg, .overflow-hidden");
            return !cut || cut.getBoundingClientRect().right > window.innerWidth + 1;
          })
          .map((one) => `${one.tagName} ${one.textContent?.slice(0, 40)}`),
      );
      expect(beyond, path).toEqual([]);
    }
  }
  const rail = page.getByRole("region", { name: "Time rail" });
  await page.goto(`/releases?last=15m&service=${encodeURIComponent(long)}`);
  await rail.getByRole("button", { name: /^service/ }).click();
  await page.getByRole("option", { name: /kettle/ }).click();
  await expect(page).toHaveURL(/kettle/);
});
