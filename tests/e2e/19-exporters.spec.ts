import type { ChildProcess } from "node:child_process";
import { mkdtempSync, readdirSync, readFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { SeverityNumber } from "@opentelemetry/api-logs";
import { OTLPLogExporter } from "@opentelemetry/exporter-logs-otlp-proto";
import { OTLPTraceExporter } from "@opentelemetry/exporter-trace-otlp-proto";
import { resourceFromAttributes } from "@opentelemetry/resources";
import { BatchLogRecordProcessor, LoggerProvider } from "@opentelemetry/sdk-logs";
import { BasicTracerProvider, BatchSpanProcessor } from "@opentelemetry/sdk-trace-node";
import { expect, test } from "@playwright/test";
import pg from "pg";
import {
  AS_FILE,
  countOf,
  freePort,
  INTAKE,
  killHard,
  post,
  publish,
  read,
  startBackend,
  startIntake,
  WEB,
} from "./helpers";

const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));
const STORE = { id: "store", type: "store" };
const database = new pg.Pool({ connectionString: process.env.DATABASE_URL, max: 2 });
/** A file of the stand-in's, of a name of its own. */
const fileOf = () => path.join(mkdtempSync(path.join(tmpdir(), "tin-")), "taken.jsonl");

test.afterAll(async () => {
  await publish({}, "nothing any more");
  await database.end();
});

async function total(text: string): Promise<number> {
  const now = Date.now();
  const { series } = await read(text, now - 900_000, now + 120_000, "1h").catch((error: Error) => {
    if (error.message.includes("has arrived")) return { series: [] };
    throw error;
  });
  return series.reduce((sum, one) => sum + (one.total ?? 0), 0);
}

interface State {
  exporter: string;
  items: number;
  sent: number;
  refused: number;
  lost: number;
  failure: string | null;
}

async function stateOf(exporter: string): Promise<State | undefined> {
  const { exporters } = (await (await fetch(`${WEB}/api/pipeline`)).json()) as { exporters: State[] };
  return exporters.find((one) => one.exporter === exporter);
}

/** Values of an attribute of all points of a metric that a backend took. */
async function idsAt(port: number, metric: string, key: string): Promise<Set<string>> {
  const text = await (await fetch(`http://127.0.0.1:${port}/copy?metric=${metric}`)).text();
  return new Set(
    [...text.matchAll(new RegExp(`"key":"${key}","value":\\{"stringValue":"([^"]+)"`, "g"))].map(([, id]) => id),
  );
}

test("whatever is killed, each acknowledged point is in the store once and at the exporter at least once", async () => {
  const port = await freePort();
  const file = fileOf();
  let backend = await startBackend(port, file);
  await publish(
    {
      exporters: [
        STORE,
        {
          id: "second",
          type: "otlp",
          url: `http://127.0.0.1:${port}`,
          wait: 0.2,
          batch: 200,
          timeout: 2,
          encoding: "json",
        },
      ],
    },
    "a second backend",
  );
  const intakePort = await freePort();
  let intake: ChildProcess = await startIntake(intakePort);
  const bases = [INTAKE, `http://127.0.0.1:${intakePort}`];
  const acknowledged: string[] = [];
  let stop = false;
  const sender = async (name: string, first: number) => {
    for (let i = 0; !stop; i++) {
      const id = `${name}${i}`;
      const body = countOf("smithy", "bolt.turned", 1, Date.now(), { id });
      // Sent until somebody took it: the same point, wherever it goes.
      for (let tries = first; (await post(body, bases[tries % 2])) !== 200; tries++) {
        if (stop) return;
        await pause(30);
      }
      acknowledged.push(id);
      await pause(10);
    }
  };
  const work = [sender("a", 0), sender("b", 1)];
  for (let round = 0; round < 3; round++) {
    const enough = acknowledged.length + 50;
    while (acknowledged.length < enough) await pause(50);
    await killHard(intake);
    await killHard(backend);
    await pause(700);
    intake = await startIntake(intakePort);
    backend = await startBackend(port, file);
  }
  await pause(1000);
  stop = true;
  await Promise.all(work);
  expect(acknowledged.length).toBeGreaterThan(100);
  await expect.poll(() => total("count of bolt.turned")).toBe(acknowledged.length);
  await expect
    .poll(
      async () => {
        const there = await idsAt(port, "bolt.turned", "id");
        return acknowledged.filter((id) => !there.has(id)).length;
      },
      { timeout: 60_000 },
    )
    .toBe(0);
  const state = await stateOf("second");
  expect(state).toMatchObject({ lost: 0, refused: 0 });
  await killHard(intake);
  await killHard(backend);
});

test("one exporter that is away harms no other; what a full queue loses is counted", async () => {
  const port = await freePort();
  const dead = await freePort();
  const backend = await startBackend(port, fileOf());
  await publish(
    {
      exporters: [
        STORE,
        { id: "third", type: "otlp", url: `http://127.0.0.1:${port}`, wait: 0.1 },
        { id: "gone", type: "otlp", url: `http://127.0.0.1:${dead}`, wait: 0.1, timeout: 1, most: 1 },
        { id: "archive", type: "file", signals: ["metrics"], size: 0.001, files: 3 },
      ],
    },
    "three more",
  );
  for (let i = 0; i < 5; i++) expect(await post(countOf("smithy", "nail.driven", 2, Date.now() + i))).toBe(200);
  await expect.poll(() => total("count of nail.driven")).toBe(10);
  const counts = async () => (await (await fetch(`http://127.0.0.1:${port}/counts`)).json()) as { points: number };
  await expect.poll(async () => (await counts()).points).toBe(5);
  await expect.poll(async () => (await stateOf("gone"))?.failure ?? "").toContain("ECONNREFUSED");
  expect(await stateOf("gone")).toMatchObject({ items: 5, sent: 0, lost: 0 });
  expect(await stateOf("third")).toMatchObject({ items: 0, sent: 5, lost: 0 });
  // The queue may hold 1 MB; texts that cannot be packed fill it.
  const noise = () => Array.from({ length: 60 }, () => Math.random().toString(36).slice(2)).join("");
  for (let i = 0; i < 40 && ((await stateOf("gone"))?.lost ?? 0) === 0; i++) {
    const attributes = Object.fromEntries(Array.from({ length: 100 }, (_, k) => [`key${k}`, noise()]));
    expect(await post(countOf("smithy", "noise.made", 1, Date.now() + i, attributes))).toBe(200);
    await pause(100);
  }
  const gone = await stateOf("gone");
  expect(gone?.lost).toBeGreaterThan(0);
  // What was sent, waits or was lost is all there was.
  const sent = (await stateOf("third"))!;
  expect((gone?.items ?? 0) + (gone?.lost ?? 0)).toBe(sent.sent + sent.items);
  // Files: begun anew when they are full, the oldest gone.
  const folder = process.env.TIN_EXPORT_DIR ?? "";
  const archived = () => readdirSync(folder).filter((name) => name.startsWith("archive"));
  await expect.poll(() => archived().length).toBe(3);
  // Whichever it is: the newest is named anew when it is full, and the oldest goes.
  await expect(() => {
    const line = readFileSync(path.join(folder, archived()[0]), "utf8").split("\n")[0];
    const sums = { resourceMetrics: [{ scopeMetrics: [{ metrics: [{ unit: "{item}" }] }] }] };
    expect(JSON.parse(line)).toMatchObject(sums);
  }).toPass();
  await publish({ exporters: [STORE] }, "they go");
  await killHard(backend);
});

test("a page to be scraped: running totals of deltas, and a token that is never told", async () => {
  await publish({ exporters: [STORE, { id: "page", type: "openmetrics" }] }, "a page");
  // Without a token nobody reads it, but where it is said to be open.
  const bare = () => fetch(`${INTAKE}/exports/page`);
  await expect.poll(async () => (await bare()).status).toBe(401);
  expect(await (await bare()).text()).toContain("is not open to everybody");
  await publish({ exporters: [STORE, { id: "page", type: "openmetrics", open: true }] }, "an open page");
  await expect.poll(async () => (await bare()).status).toBe(200);
  await publish({ exporters: [STORE, { id: "page", type: "openmetrics" }] }, "a page again");
  const keep = (value: string) =>
    fetch(`${WEB}/api/pipeline/secrets`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ exporter: "page", name: "token", value }),
    });
  expect(await (await keep("a secret of ours")).json()).toEqual({ exporter: "page", name: "token", kept: true });
  const page = (headers = {}) => fetch(`${INTAKE}/exports/page`, { headers });
  expect((await page()).status).toBe(401);
  const now = Date.now();
  for (const [i, value] of [3, 4, 5].entries())
    expect(await post(countOf("smithy", "rivet.set", value, now + i, { hue: "red" }))).toBe(200);
  const bearer = { Authorization: "Bearer a secret of ours" };
  await expect
    .poll(async () => (await page(bearer)).text())
    .toMatch(/rivet_set_total\{hue="red",service_name="smithy",service_version="1"\} 12 /);
  const answer = await page(bearer);
  expect(answer.headers.get("content-type")).toContain("application/openmetrics-text");
  expect(await answer.text()).toMatch(/# EOF\n$/);
  const all = await (await fetch(`${WEB}/api/pipeline`)).text();
  expect(all).toContain('"name":"token"');
  expect(all).not.toContain("a secret of ours");
  expect((await fetch(`${INTAKE}/exports/none`)).status).toBe(404);
});

test("spans and log records of the SDK: metrics from them, whole traces kept or not, the rest stored", async () => {
  await publish(
    {
      traces: [
        { id: "from-spans", type: "spans", to: "call", attributes: ["span.name"], every: 2 },
        { id: "whole", type: "tail", errors: true, share: 0, within: 2 },
      ],
      logs: [
        { id: "fields", type: "parse" },
        { id: "secret", type: "redact", attributes: ["log.body", "member"], pattern: "[a-z]+@[a-z.-]+" },
        { id: "how-many", type: "records", to: "courier.lines", attributes: ["level"], every: 2 },
        { id: "quiet", type: "drop", where: 'level is "debug"' },
      ],
    },
    "spans and lines",
  );
  const resource = resourceFromAttributes({ "service.name": "courier-shed", "service.version": "2" });
  const provider = new BasicTracerProvider({
    resource,
    spanProcessors: [new BatchSpanProcessor(new OTLPTraceExporter({ url: `${INTAKE}/v1/traces` }))],
  });
  const tracer = provider.getTracer("test");
  const failed: string[] = [];
  const fine: string[] = [];
  for (let i = 0; i < 20; i++) {
    const span = tracer.startSpan("POST /parcels");
    if (i % 5 === 0) {
      span.setStatus({ code: 2, message: "no answer" });
      failed.push(span.spanContext().traceId);
    } else fine.push(span.spanContext().traceId);
    span.end();
  }
  await provider.forceFlush();
  /** A span of a trace that was begun earlier, as another service would send it. */
  const late = (traceId: string) =>
    fetch(`${INTAKE}/v1/traces`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({
        resourceSpans: [
          {
            resource: { attributes: [{ key: "service.name", value: { stringValue: "late-shed" } }] },
            scopeSpans: [
              {
                spans: [
                  { traceId, spanId: "00f067aa0ba902b7", name: "late", startTimeUnixNano: `${Date.now()}000000` },
                ],
              },
            ],
          },
        ],
      }),
    });
  const logs = new LoggerProvider({
    resource,
    processors: [new BatchLogRecordProcessor({ exporter: new OTLPLogExporter({ url: `${INTAKE}/v1/logs` }) })],
  });
  for (let i = 0; i < 9; i++)
    logs.getLogger("test").emit({
      severityNumber: SeverityNumber.INFO,
      body: `level=${i % 3 === 0 ? "debug" : "info"} member=ada@fern-anvil.example took=${i}`,
    });
  await logs.forceFlush();
  await Promise.all([provider.shutdown(), logs.shutdown()]);
  const count = async (text: string, values: unknown[] = []) =>
    Number((await database.query<{ count: string }>(text, values)).rows[0].count);
  // Only traces with an error are kept, all others were counted before they went.
  await expect
    .poll(() =>
      count("SELECT count(*) FROM span s JOIN resource r ON r.id = s.resource_id WHERE r.service = 'courier-shed'"),
    )
    .toBe(failed.length);
  expect(await count("SELECT count(*) FROM span WHERE trace_id = ANY($1::text[]) AND status = 'error'", [failed])).toBe(
    4,
  );
  // What comes later follows the decision of its trace.
  expect((await late(failed[0])).status).toBe(200);
  expect((await late(fine[0])).status).toBe(200);
  const lateSpans = (traceId: string) =>
    count("SELECT count(*) FROM span WHERE name = 'late' AND trace_id = $1", [traceId]);
  await expect.poll(() => lateSpans(failed[0])).toBe(1);
  await expect.poll(() => count("SELECT count(*) FROM undecided_trace")).toBe(0);
  expect(await lateSpans(fine[0])).toBe(0);
  await expect.poll(() => total('count of call.count where span.name is "POST /parcels"')).toBe(20);
  expect(await total("count of call.errors")).toBe(4);
  expect(await total('count of call.duration where span.name is "POST /parcels"')).toBe(20);
  await expect.poll(() => total('count of courier.lines where level is "debug"')).toBe(3);
  const { rows } = await database.query<{ body: string; attributes: Record<string, unknown> }>(
    `SELECT l.body, l.attributes FROM log_record l JOIN resource r ON r.id = l.resource_id WHERE r.service = 'courier-shed' ORDER BY l.t, l.ns`,
  );
  expect(rows).toHaveLength(6);
  expect(rows[0].body).toBe("level=info member=*** took=1");
  expect(rows[0].attributes).toEqual({ level: "info", member: "***", took: 1 });
});

test("the same reading from the store and from the other backend's copy", async () => {
  const port = await freePort();
  const backend = await startBackend(port, fileOf());
  await publish(
    {
      exporters: [
        STORE,
        {
          id: "fourth",
          type: "otlp",
          url: `http://127.0.0.1:${port}`,
          wait: 0.1,
          copy: `http://127.0.0.1:${port}/copy`,
        },
      ],
    },
    "to compare",
  );
  const now = Date.now();
  for (const [i, value] of [3, 4, 5].entries())
    await post(countOf("smithy", "hinge.oiled", value, now + i, { hue: "red" }));
  await expect.poll(async () => (await stateOf("fourth"))?.sent).toBe(3);
  const compare = async (text: string) => {
    const query = new URLSearchParams({
      exporter: "fourth",
      text,
      from: String(now - 60_000),
      to: String(now + 60_000),
      every: "10s",
    });
    return (await (await fetch(`${WEB}/api/pipeline/compare?${query}`)).json()) as {
      detail?: string;
      pairs?: {
        left: { total: number } | null;
        right: { total: number } | null;
        furthest: { left: number; right: number } | null;
      }[];
    };
  };
  const same = await compare("count of hinge.oiled by hue");
  expect(same.pairs).toMatchObject([{ left: { total: 12 }, right: { total: 12 }, furthest: null }]);
  // What comes to the store alone makes a difference.
  await publish(
    {
      exporters: [
        STORE,
        {
          id: "fourth",
          type: "otlp",
          on: false,
          url: `http://127.0.0.1:${port}`,
          copy: `http://127.0.0.1:${port}/copy`,
        },
      ],
    },
    "store only",
  );
  await post(countOf("smithy", "hinge.oiled", 8, now + 3, { hue: "red" }));
  const other = await compare("count of hinge.oiled by hue");
  expect(other.pairs).toMatchObject([{ left: { total: 20 }, right: { total: 12 }, furthest: { left: 20, right: 12 } }]);
  expect((await compare("count of nothing.at.all")).detail).toContain("no metric named");
  await killHard(backend);
  expect((await compare("count of hinge.oiled")).detail).toContain("does not answer");
});

test("a pipeline as a file: read out, changed, put back; what is wrong is said with its place", async () => {
  await publish({ metrics: [{ id: "noise", type: "drop", where: 'metric is "noise.made"' }] }, "for a file");
  const yaml = await (await fetch(`${WEB}/api/pipeline/file`)).text();
  expect(yaml).toContain('where: metric is "noise.made"');
  const put = (text: string, based?: number) =>
    fetch(`${WEB}/api/pipeline/file${based === undefined ? "" : `/publish?based=${based}`}`, {
      method: "POST",
      ...AS_FILE,
      body: text,
    });
  const changed = yaml.replace("noise.made", "noise.heard");
  // The difference comes first; nothing is published until it is asked for on the version that was compared.
  const shown = (await (await put(changed)).json()) as { live: number; differences: { in: string; text: string }[][] };
  expect(shown.differences.flat().filter((line) => line.in !== "both")).toEqual([
    { in: "first", text: expect.stringContaining("noise.made") },
    { in: "second", text: expect.stringContaining("noise.heard") },
  ]);
  expect((await put(changed, shown.live - 1)).status).toBe(409);
  expect((await put(changed, shown.live)).status).toBe(201);
  const json = await (await fetch(`${WEB}/api/pipeline/file?format=json`)).json();
  expect(json).toMatchObject({
    metrics: [{ id: "noise", where: 'metric is "noise.heard"' }],
    exporters: [{ id: "store" }],
  });
  const wrong = await put(yaml.replace("type: drop", "type: lose"));
  expect(wrong.status).toBe(400);
  expect(await wrong.text()).toContain("metrics.0.type");
  expect((await put("a: [")).status).toBe(400);
  const refusals: [string, RegExp][] = [
    ["hello: world", /has no part \\"receivers\\"/],
    [`${yaml}redakt: true\n`, /\\"redakt\\" means nothing here/],
    [yaml.replace("type: drop", "type: drop\n    wehre: x"), /metrics\.0\.wehre/],
    ["[".repeat(100_000), /nested too deeply|neither JSON nor YAML|too many parts/],
    [`{a: ${"{a: ".repeat(20_000)}1`, /nested too deeply|neither JSON nor YAML|too many parts/],
    [Array.from({ length: 60_000 }, (_, i) => `k${i}: 1`).join("\n"), /too many parts|has no part/],
  ];
  for (const [text, reason] of refusals) {
    const began = Date.now();
    const asked = put(text);
    // Others are answered meanwhile.
    expect((await fetch(`${WEB}/api/health`)).status).toBe(200);
    expect(Date.now() - began).toBeLessThan(5000);
    const refused = await asked;
    expect(refused.status, text.slice(0, 40)).toBe(400);
    expect(await refused.text()).toMatch(reason);
  }
});

test("of two who change one contract from the same version, the second is told", async () => {
  const body = { name: "knot.tied", kind: "counter", unit: "{knot}", service: "nets", instances: 1, attributes: [] };
  const save = (unit: string, based: number) =>
    fetch(`${WEB}/api/contracts`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify({ body: { ...body, unit }, note: `in ${unit}`, based }),
    });
  expect((await save("{knot}", 0)).status).toBe(201);
  const both = await Promise.all([save("{loop}", 1), save("{turn}", 1)]);
  expect(both.map(({ status }) => status).sort()).toEqual([201, 409]);
  const told = await both.find(({ status }) => status === 409)!.json();
  expect(told.detail).toContain("version 2 was saved meanwhile by tests");
});

test("settings that two people change at once keep both changes", async () => {
  const change = (fields: object) =>
    fetch(`${WEB}/api/slow`, {
      method: "PUT",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify(fields),
    });
  const fields = { calls: 0.7, outgoing: 1.7, database: 0.17, messages: 7 };
  await Promise.all(Object.entries(fields).map(([name, value]) => change({ [name]: value })));
  expect(await (await fetch(`${WEB}/api/slow`)).json()).toEqual(fields);
});
