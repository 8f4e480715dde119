import { expect, test } from "@playwright/test";
import pg from "pg";
import { countOf, FRESH, INTAKE, post, publish, read, WEB } from "./helpers";
import { mergeAll } from "./points";

/** Whatever is sent: it goes in or is refused in words, and harms nobody else, no reading, no job, no exporter. */

const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL });
test.afterAll(() => pool.end());

const NUL = "a\u0000b";
const HALF = "a\ud800b";
const LONG = "x".repeat(4000);
const HUGE = "18446744073709551615";
const list = (all: Record<string, unknown>) =>
  Object.entries(all).map(([key, value]) => ({
    key,
    value: typeof value === "object" ? value : { stringValue: String(value) },
  }));
const now = () => `${Date.now()}000000`;
const point = (more: object = {}) => ({ timeUnixNano: now(), asDouble: 1, ...more });

interface Sent {
  resource?: Record<string, unknown>;
  scope?: object;
  metric?: object;
}

function metrics({ resource = {}, scope = {}, metric = {} }: Sent): object {
  return {
    resourceMetrics: [
      {
        resource: { attributes: list({ "service.name": "prankster", ...resource }) },
        scopeMetrics: [
          { scope, metrics: [{ name: "well.drawn", unit: "{item}", gauge: { dataPoints: [point()] }, ...metric }] },
        ],
      },
    ],
  };
}

const histogram = (more: object) => ({
  gauge: undefined,
  histogram: { aggregationTemporality: 1, dataPoints: [{ timeUnixNano: now(), count: "1", ...more }] },
});
const exponential = (more: object) => ({
  gauge: undefined,
  exponentialHistogram: {
    aggregationTemporality: 2,
    dataPoints: [{ timeUnixNano: now(), count: "1", scale: 0, positive: { offset: 0, bucketCounts: ["1"] }, ...more }],
  },
});
const summary = (quantiles: number) => ({
  gauge: undefined,
  summary: {
    dataPoints: [
      {
        timeUnixNano: now(),
        count: "1",
        sum: 1,
        quantileValues: Array.from({ length: quantiles }, (_, i) => ({ quantile: i / quantiles, value: i })),
      },
    ],
  },
});
const gauge = (more: object) => ({ gauge: { dataPoints: [point(more)] } });
const exemplar = (more: object) => gauge({ exemplars: [{ timeUnixNano: now(), asDouble: 1, ...more }] });
const nested = (depth: number): object =>
  depth === 0 ? { stringValue: "x" } : { arrayValue: { values: [nested(depth - 1)] } };

const METRICS: [string, Sent][] = [
  ["a summary of 5,000 quantiles", { metric: summary(5000) }],
  ["a start of 1e300", { metric: gauge({ startTimeUnixNano: 1e300 }) }],
  ["the last start there is", { metric: gauge({ startTimeUnixNano: HUGE }) }],
  ["the last time there is", { metric: gauge({ timeUnixNano: HUGE }) }],
  ["no time", { metric: gauge({ timeUnixNano: "0" }) }],
  ...[1e17, 2 ** 31 - 1, -(2 ** 31), "1e17"].flatMap((offset) =>
    [-10, 0, 20].map((scale): [string, Sent] => [
      `offset ${offset} at scale ${scale}`,
      { metric: exponential({ scale, positive: { offset, bucketCounts: ["1"] } }) },
    ]),
  ),
  ["negative counts", { metric: histogram({ explicitBounds: [1], bucketCounts: [2, -1] }) }],
  ["counts that are no numbers", { metric: histogram({ explicitBounds: [1], bucketCounts: ["x", null] }) }],
  ["bounds that are no numbers", { metric: histogram({ explicitBounds: ["NaN"], bucketCounts: ["1", "0"] }) }],
  ["an infinite zero threshold", { metric: exponential({ zeroThreshold: "Infinity" }) }],
  ["a zero threshold that is no number", { metric: exponential({ zeroThreshold: "NaN" }) }],
  ["a scale of 1000", { metric: exponential({ scale: 1000 }) }],
  ...["NaN", "Infinity", "-Infinity", 1e308, -0].map((asDouble): [string, Sent] => [
    `a value of ${asDouble}`,
    { metric: gauge({ asDouble }) },
  ]),
  ...[NUL, HALF, LONG, ""].flatMap((text): [string, Sent][] => [
    [`a unit of ${text.length}`, { metric: { unit: text } }],
    [`a description of ${text.length}`, { metric: { description: text } }],
    [`a name of ${text.length}`, { metric: { name: text } }],
    [`a scope's name of ${text.length}`, { scope: { name: text } }],
    [`a scope's version of ${text.length}`, { scope: { version: text } }],
    [`a scope's attribute of ${text.length}`, { scope: { name: "s", attributes: list({ a: text }) } }],
    [`a value of ${text.length}`, { metric: gauge({ attributes: list({ a: text }) }) }],
    [`an attribute's name of ${text.length}`, { metric: gauge({ attributes: list({ [text]: "a" }) }) }],
    [`a service of ${text.length}`, { resource: { "service.name": text } }],
    [`a release of ${text.length}`, { resource: { "service.version": text } }],
    [`an instance of ${text.length}`, { resource: { "service.instance.id": text } }],
    [`an environment of ${text.length}`, { resource: { "deployment.environment.name": text } }],
    [`an exemplar's attribute of ${text.length}`, { metric: exemplar({ filteredAttributes: list({ a: text }) }) }],
  ]),
  ["an exemplar's id of 500 bytes", { metric: exemplar({ traceId: "ab".repeat(500) }) }],
  ["an exemplar of the last time there is", { metric: exemplar({ timeUnixNano: HUGE }) }],
  ["an attribute that is no number", { metric: gauge({ attributes: list({ a: { doubleValue: "NaN" } }) }) }],
  ["an infinite attribute", { metric: gauge({ attributes: list({ a: { doubleValue: "Infinity" } }) }) }],
  ["an attribute beyond numbers", { metric: gauge({ attributes: list({ a: { intValue: "9223372036854775807" } }) }) }],
  ["attributes 40 deep", { metric: gauge({ attributes: list({ a: nested(40) }) }) }],
  [
    "names of the language",
    { metric: gauge({ attributes: list({ __proto__: "a", constructor: "b", toString: "c" }) }) },
  ],
  ["a service called __proto__", { resource: { "service.name": "__proto__", "service.version": "constructor" } }],
  ["line breaks in a service", { resource: { "service.name": "a\nb\tc" } }],
];

function span(more: object): object {
  const one = {
    traceId: "0af7651916cd43dd8448eb211c80319c",
    spanId: Math.floor(Math.random() * 1e12)
      .toString(16)
      .padStart(16, "1"),
    name: "draw",
    startTimeUnixNano: now(),
    endTimeUnixNano: now(),
    ...more,
  };
  return {
    resourceSpans: [
      { resource: { attributes: list({ "service.name": "prankster" }) }, scopeSpans: [{ spans: [one] }] },
    ],
  };
}

function log(more: object): object {
  const one = { timeUnixNano: now(), body: { stringValue: "splash" }, ...more };
  return {
    resourceLogs: [
      { resource: { attributes: list({ "service.name": "prankster" }) }, scopeLogs: [{ logRecords: [one] }] },
    ],
  };
}

const SPANS: [string, object][] = [
  ["that ends with time itself", { endTimeUnixNano: HUGE }],
  ["that begins with time itself", { startTimeUnixNano: "1", endTimeUnixNano: HUGE }],
  ["that ends before it begins", { endTimeUnixNano: "1" }],
  ["of a kind of the language", { kind: "constructor", status: { code: "__proto__" } }],
  ["with ids of 500 bytes in a link", { links: [{ traceId: "ab".repeat(500), spanId: "cd" }] }],
  ["with an event of the last time there is", { events: [{ name: "e", timeUnixNano: HUGE }] }],
  ["that dropped 4 billion", { droppedAttributesCount: 4294967295, droppedEventsCount: 4294967295 }],
  ["with an attribute that is no number", { attributes: list({ a: { doubleValue: "NaN" } }) }],
  ...[NUL, HALF, LONG].flatMap((text): [string, object][] => [
    [`with a name of ${text.length}`, { name: text }],
    [`with a state of ${text.length}`, { traceState: text }],
    [`with an event of ${text.length}`, { events: [{ name: text, timeUnixNano: now() }] }],
    [
      `with a link's state of ${text.length}`,
      { links: [{ traceId: "ab".repeat(16), spanId: "cd".repeat(8), traceState: text }] },
    ],
    [`with a status of ${text.length}`, { status: { message: text } }],
  ]),
];

const LOGS: [string, object][] = [
  ...["constructor", "__proto__", 99_999, -5, "SEVERITY_NUMBER_INFO"].map((severityNumber): [string, object] => [
    `of severity ${severityNumber}`,
    { severityNumber },
  ]),
  ["whose body holds no text", { body: { kvlistValue: { values: list({ a: NUL, b: HALF }) } } }],
  ["that dropped 4 billion", { droppedAttributesCount: 4294967295 }],
  ["that was observed with time itself", { observedTimeUnixNano: HUGE }],
  ["of 70,000 characters", { body: { stringValue: "x".repeat(70_000) } }],
  ["whose body is no number", { body: { doubleValue: "NaN" } }],
  ...[NUL, HALF].flatMap((text): [string, object][] => [
    [`with a body of ${text.length}`, { body: { stringValue: text } }],
    [`with a severity of ${text.length}`, { severityText: text }],
    [`with an event of ${text.length}`, { eventName: text }],
  ]),
];

async function send(path: string, body: string | object): Promise<number> {
  const response = await fetch(`${INTAKE}/v1/${path}`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    // Halves of pairs only get through JSON as escapes.
    body: typeof body === "string" ? body : JSON.stringify(body),
  });
  await response.arrayBuffer();
  return response.status;
}

test("a corpus of poison: each refused or taken, nobody else harmed", async () => {
  await publish(
    {
      metrics: [{ id: "joined", type: "remove", where: 'service is "prankster"', attributes: ["a"] }],
      traces: [{ id: "whole", type: "tail", errors: true, slower: 1, share: 1, within: 1 }],
      exporters: [
        { id: "store", type: "store" },
        { id: "kept", type: "file" },
      ],
    },
    "to be poisoned",
  );
  const from = Date.now() - 60_000;
  let healthy = 0;
  const beside = async () => {
    expect(await post(countOf("farmer", "well.drawn", 1, Date.now()))).toBe(200);
    healthy++;
  };
  const wrong: string[] = [];
  const check = async (what: string, path: string, body: string | object) => {
    const status = await send(path, body);
    if (![200, 400, 413].includes(status)) wrong.push(`${what}: ${status}`);
  };
  for (const [what, sent] of METRICS) {
    await Promise.all([check(what, "metrics", metrics(sent)), beside()]);
  }
  for (const [what, more] of SPANS) await check(`a span ${what}`, "traces", span(more));
  for (const [what, more] of LOGS) await check(`a record ${what}`, "logs", log(more));
  const deep = "[".repeat(200_000);
  await check("brackets", "metrics", deep);
  await check("objects", "logs", `{"resourceLogs":${'[{"scopeLogs":'.repeat(50_000)}`);
  expect(wrong).toEqual([]);

  const { series } = await read('count of well.drawn where service is "farmer"', from, Date.now() + 1000);
  expect(series[0].total).toBe(healthy);
  for (const text of ["last of well.drawn by service", "count of well.drawn", "sum of well.drawn by a"]) {
    const answer = await read(text, from, Date.now() + 1000);
    expect(answer.series.length, text).toBeGreaterThan(0);
  }
  await mergeAll(pool, Date.now() + 12 * 3600_000);
  const later = await read('count of well.drawn where service is "farmer"', from, Date.now() + 1000);
  expect(later.series[0].total).toBe(healthy);

  const paths = [
    "overview",
    "catalogue",
    "store",
    `services?from=${from}&to=${Date.now()}`,
    "instruments/one?metric=well.drawn",
    "findings",
    "pipeline",
  ];
  for (const path of paths) expect((await fetch(`${WEB}/api/${path}`)).status, path).toBe(200);
  const ladder = await fetch(`${WEB}/api/ladder?service=prankster&from=${from}&to=${Date.now()}`);
  expect(ladder.status).toBe(200);
  const store = (await (await fetch(`${WEB}/api/store`, FRESH)).json()) as {
    jobs: { name: string; error: string | null }[];
    setAside: object[];
  };
  expect(store.jobs.filter(({ error }) => error !== null)).toEqual([]);
  expect(store.setAside).toEqual([]);
  await expect
    .poll(async () => {
      const { rows } = await pool.query("SELECT count(*)::int AS n FROM lane_waiting WHERE t_to < $1", [
        Date.now() - 60_000,
      ]);
      return rows[0].n;
    })
    .toBe(0);
  const purged = await fetch(`${WEB}/api/store/purge`, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify({ metric: "well.drawn" }),
  });
  expect(purged.status).toBe(202);
  await expect.poll(async () => (await read("count of well.drawn", from, Date.now() + 1000)).series.length).toBe(0);
});

test("a strip that cannot be read is left out, set aside by upkeep, shown, and deleted when somebody says so", async ({
  page,
}) => {
  const from = Date.now() - 60_000;
  const stripsOf = async (name: string) =>
    (
      await pool.query(
        "SELECT s.id, s.level FROM strip s JOIN metric m ON m.id = metric_id WHERE name = $1 AND s.resolution = 0",
        [name],
      )
    ).rows;
  for (const name of ["bucket.broken", "bucket.whole"])
    for (let i = 0; i < 3; i++) expect(await post(countOf("farmer", name, 1, Date.now() - i * 1000))).toBe(200);
  const [first] = await stripsOf("bucket.broken");
  await pool.query("UPDATE strip SET payload = '\\x5401ffffffff00' WHERE id = $1", [first.id]);
  const answer = await read("count of bucket.broken", from, Date.now() + 1000);
  expect(answer.series[0].total).toBe(2);
  expect(answer.warnings.map(({ code }) => code)).toEqual(["unreadable"]);
  await mergeAll(pool, Date.now() + 12 * 3600_000);
  expect((await stripsOf("bucket.whole")).map(({ level }) => level)).toEqual([3]);
  expect((await stripsOf("bucket.broken")).map(({ level }) => level)).toEqual([3]);
  expect((await read("count of bucket.broken", from, Date.now() + 1000)).series[0].total).toBe(2);
  await page.goto("/store");
  const aside = page.getByRole("region", { name: "Set aside" });
  await expect(aside).toContainText("points of bucket.broken");
  await aside.getByRole("button", { name: "Delete for good…" }).click();
  await page.getByRole("dialog").getByRole("button", { name: "Delete" }).click();
  await expect(aside).toHaveCount(0);
});
