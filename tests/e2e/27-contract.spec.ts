import type { ChildProcess } from "node:child_process";
import { expect, test } from "@playwright/test";
import fc from "fast-check";
import { filledPath, queryText, textInAddress } from "../../src/core/api/address";
import { type Call, isPlain } from "../../src/core/api/call";
import { ALL_CALLS, type NamedCall } from "../../src/core/api/calls";
import { COMMON_PROBLEMS, jsonSchema } from "../../src/core/api/openapi";
import { problem } from "../../src/core/api/readings";
import { type Cluster, endClusters, newCluster } from "./clusters";
import { brokenOf, type Json, valuesOf } from "./fromSchema";
import { AS_FILE, AS_JSON, countOf, freePort, killHard, post, startIntake, startWeb } from "./helpers";

/**
 * Every call of the contract is made with what its schemas describe, and with what they do not, on a system of its own.
 * What comes back has to be what the contract says: never a fault.
 */

const RUNS = 12;
let cluster: Cluster;
const children: ChildProcess[] = [];
let web = "";

test.beforeAll(async () => {
  cluster = await newCluster("contract");
  const env = { DATABASE_URL: cluster.url, TIN_EXPORT_DIR: "/tmp/tin-ladder-contract" };
  const [port, webPort] = [await freePort(), await freePort()];
  children.push(await startIntake(port, env));
  children.push(await startWeb(webPort, { ...env, TIN_INTAKE_PORT: String(port) }));
  web = `http://127.0.0.1:${webPort}`;
  const intake = `http://127.0.0.1:${port}`;
  const now = Date.now();
  for (let i = 0; i < 20; i++)
    expect(await post(countOf("loans", "loan.reserved", i, now - i * 1000, { depot: `d${i % 3}` }), intake)).toBe(200);
  const attribute = (key: string, stringValue: string) => ({ key, value: { stringValue } });
  const dataPoints = [3, 2, 1, 0].map((age) => ({
    startTimeUnixNano: `${now - 60_000}000000`,
    timeUnixNano: `${now - age * 10_000}000000`,
    count: String(40 - 10 * age),
    sum: 4 - age,
    explicitBounds: [0.1, 0.5],
    // The last bucket, which has no upper bound, holds most of them.
    bucketCounts: ["1", "1", String(38 - 10 * age)],
    exemplars: [
      {
        timeUnixNano: `${now}000000`,
        asDouble: 0.3,
        traceId: "0af7651916cd43dd8448eb211c80319c",
        spanId: "b7ad6b7169203331",
      },
    ],
  }));
  const resource = { attributes: [attribute("service.name", "loans"), attribute("service.version", "1.0.0")] };
  const metrics = [
    { name: "http.server.request.duration", unit: "s", histogram: { aggregationTemporality: 2, dataPoints } },
  ];
  expect(await post({ resourceMetrics: [{ resource, scopeMetrics: [{ metrics }] }] }, intake)).toBe(200);
  const spans = [
    {
      traceId: "0af7651916cd43dd8448eb211c80319c",
      spanId: "b7ad6b7169203331",
      name: "reserve",
      kind: 2,
      startTimeUnixNano: `${now}000000`,
      endTimeUnixNano: `${now + 5}000000`,
    },
  ];
  const logRecords = [{ timeUnixNano: `${now}000000`, body: { stringValue: "reserved" } }];
  for (const [path, body] of [
    ["traces", { resourceSpans: [{ resource, scopeSpans: [{ spans }] }] }],
    ["logs", { resourceLogs: [{ resource, scopeLogs: [{ logRecords }] }] }],
  ] as const) {
    const response = await fetch(`${intake}/v1/${path}`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify(body),
    });
    expect(response.status).toBe(200);
  }
});

test.afterAll(async () => {
  for (const child of children) await killHard(child);
  await endClusters([cluster]);
});

interface Sent {
  params: unknown;
  query: unknown;
  body: unknown;
}

/** Makes a call. @returns what is against the contract in what came back; null where nothing is */
async function wrongWith(call: Call, { params, query, body }: Sent): Promise<string | null> {
  const text =
    typeof query === "object" && query !== null && !Array.isArray(query)
      ? queryText(query as Json)
      : textInAddress(query);
  // An address has to be one for the call to be reached.
  const id = textInAddress((params as Json | null)?.id ?? 1).replace(/[^\w-]/g, "") || "none";
  const path = filledPath(call.path, { id });
  const sent =
    call.method === "GET"
      ? {}
      : {
          ...(isPlain(call.body) ? AS_FILE : AS_JSON),
          body: typeof body === "string" ? body : JSON.stringify(body),
        };
  const make = () => fetch(`${web}${path}?${text}`, { method: call.method, ...sent });
  // A connection that was kept may have been given up meanwhile, before anything was asked on it.
  const response = await make().catch((error: Error) => {
    if ((error.cause as { code?: string } | undefined)?.code === "UND_ERR_SOCKET") return make();
    throw error;
  });
  const said = await response.text();
  const about = `${call.method} ${path}?${text.slice(0, 200)} ${JSON.stringify(sent).slice(0, 300)}: ${response.status} ${said.slice(0, 300)}`;
  const type = response.headers.get("content-type") ?? "";
  if (response.status === call.status) {
    if (isPlain(call.answer)) return null;
    const json: unknown = JSON.parse(said);
    const read = call.answer.safeParse(json);
    if (!read.success) return `${about}\n${read.error.message.slice(0, 500)}`;
    // What the schema does not know it leaves out.
    const same =
      JSON.stringify(read.data) === JSON.stringify(json) ||
      fc.stringify(sorted(read.data)) === fc.stringify(sorted(json));
    return same ? null : `${about}\nhas more than the contract says`;
  }
  const known = { ...COMMON_PROBLEMS, ...call.problems };
  if (response.status === 500 || !Object.hasOwn(known, response.status)) return about;
  if (type !== "application/problem+json" || !problem.safeParse(JSON.parse(said)).success)
    return `${about}\nis no problem`;
  return null;
}

/** The same with the names of each object in order. */
function sorted(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(sorted);
  if (typeof value !== "object" || value === null) return value;
  return Object.fromEntries(
    Object.entries(value)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([name, one]) => [name, sorted(one)]),
  );
}

/** What a call's schemas describe. Windows, metrics and services are most often some that there are. */
function goodOf({ call }: NamedCall): Record<keyof Sent, fc.Arbitrary<unknown>> {
  const now = Date.now();
  const real = fc.record(
    {
      from: fc.integer({ min: now - 600_000, max: now - 60_000 }),
      to: fc.integer({ min: now - 30_000, max: now + 60_000 }),
      metric: fc.constantFrom("loan.reserved", "http.server.request.duration"),
      service: fc.constant("loans"),
      environment: fc.constant(""),
      zone: fc.constantFrom("UTC", "Europe/Berlin"),
      text: fc.constantFrom("rate of loan.reserved by depot", "p95 of http.server.request.duration", "last of nothing"),
    },
    { requiredKeys: ["from", "to"] },
  );
  const better = (schema: Json) =>
    fc.tuple(valuesOf(schema), real, fc.nat(4)).map(([given, known, how]) => {
      if (how === 0 || typeof given !== "object" || given === null) return given;
      const names = Object.keys((schema.properties ?? {}) as Json);
      const fitting = Object.entries(known).filter(([name]) => names.includes(name));
      return { ...given, ...Object.fromEntries(fitting) };
    });
  return {
    params: valuesOf(jsonSchema(call.params, "input")),
    query: better(jsonSchema(call.query, "input")),
    body: isPlain(call.body)
      ? fc.oneof(fc.constant(String(call.example.body)), fc.string(), fc.json())
      : better(jsonSchema(call.body, "input")),
  };
}

for (const topic of [...new Set(ALL_CALLS.map((one) => one.topic))]) {
  test(`calls about ${topic} answer what the contract says, whatever they are given`, async () => {
    const wrong: string[] = [];
    for (const one of ALL_CALLS.filter((other) => other.topic === topic)) {
      const { call } = one;
      const { params = { id: "1" }, query = {}, body = {} } = call.example;
      const asked: Sent[] = [{ params, query, body }];
      const good = goodOf(one);
      const seed = Date.now() % 1_000_000;
      for (const sent of fc.sample(fc.record(good), { numRuns: RUNS, seed })) asked.push(sent as Sent);
      const broken = fc.record({
        params: brokenOf(good.params),
        query: brokenOf(good.query),
        body: isPlain(call.body) ? good.body : brokenOf(good.body),
      });
      for (const sent of fc.sample(broken, { numRuns: RUNS, seed })) asked.push(sent as Sent);
      for (const sent of asked) {
        const found = await wrongWith(call, sent).catch(
          (error: Error) =>
            `${call.path}: ${error.message} ${String(error.cause ?? "")} ${JSON.stringify(sent).slice(0, 800)}`,
        );
        if (found) wrong.push(`seed ${seed}: ${found}`);
      }
    }
    expect(wrong.slice(0, 10)).toEqual([]);
  });
}
