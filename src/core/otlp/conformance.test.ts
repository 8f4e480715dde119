import fc from "fast-check";
import { type Attributes, FLAG } from "../metric/model";
import type { Batch } from "./batch";
import { ADMIT_ALL } from "./batch";
import { Dictionary } from "./dictionary";
import { decodeMetricsJson } from "./json";
import { decodeMetrics } from "./protobuf";
import { Request } from "./testing/schema";
import { WireError } from "./wire";

const ALLOWED = { ...ADMIT_ALL, to: 4e12 };

type Json = Record<string, unknown>;

/** What came out of a batch, as plain data in one order: a line per point. */
function flat(batch: Batch): string[] {
  for (const series of batch.series()) series.id = 1;
  const byKey = new Map<unknown, number>();
  const lines: string[] = [];
  let next = 1;
  const names = new Map<number, string>();
  for (const series of batch.series()) {
    if (!byKey.has(series)) {
      byKey.set(series, next);
      const { identity } = series;
      names.set(
        next,
        JSON.stringify([
          series.metric.identity,
          sorted(identity.resource),
          identity.scope,
          sorted(identity.attributes),
        ]),
      );
      series.id = next++;
    } else series.id = byKey.get(series)!;
  }
  for (const { sets } of batch.pointSets()) {
    for (const set of sets) {
      for (let i = 0; i < set.count; i++) {
        lines.push(
          JSON.stringify([
            names.get(set.series[i]),
            set.timeMs[i],
            set.timeNs[i],
            set.startMs[i],
            set.startNs[i],
            set.flags[i],
            set.layout,
            set.columns.map((column) => special(column[i])),
          ]),
        );
      }
    }
  }
  return lines.sort();
}

function special(value: number): number | string {
  return Number.isFinite(value) && !Object.is(value, -0) ? value : Object.is(value, -0) ? "-0" : String(value);
}

function sorted(attributes: Attributes) {
  return Object.entries(attributes).sort(([a], [b]) => (a < b ? -1 : 1));
}

/** The same lines from what the reference library decoded: written from the message definition, not from the reader. */
function expected(bytes: Uint8Array): string[] {
  const message = Request.toObject(Request.decode(bytes), {
    longs: String,
    bytes: String,
    arrays: true,
    defaults: false,
    objects: true,
  }) as Json;
  const lines: string[] = [];
  const list = (value: unknown) => (value ?? []) as Json[];
  for (const one of list(message.resourceMetrics)) {
    const resource = attributesOf(list((one.resource as Json)?.attributes));
    for (const scoped of list(one.scopeMetrics)) {
      const scope = {
        name: ((scoped.scope as Json)?.name as string) ?? "",
        version: ((scoped.scope as Json)?.version as string) ?? "",
      };
      for (const metric of list(scoped.metrics)) {
        const [field, kind] = [
          ["gauge", "gauge"],
          ["sum", "sum"],
          ["histogram", "histogram"],
          ["exponentialHistogram", "exponential"],
          ["summary", "summary"],
        ].find(([name]) => metric[name])!;
        const data = metric[field] as Json;
        const temporality =
          kind === "gauge" || kind === "summary" ? "none" : data.aggregationTemporality === 1 ? "delta" : "cumulative";
        const monotonic = kind === "sum" ? Boolean(data.isMonotonic) : temporality !== "none";
        const identity = { name: metric.name, kind, unit: metric.unit ?? "", temporality, monotonic };
        for (const point of list(data.dataPoints)) {
          const time = BigInt((point.timeUnixNano as string) ?? 0);
          const start = BigInt((point.startTimeUnixNano as string) ?? 0);
          const { layout, columns, flags } = valuesOf(kind, point);
          lines.push(
            JSON.stringify([
              JSON.stringify([identity, sorted(resource), scope, sorted(attributesOf(list(point.attributes)))]),
              Number(time / 1_000_000n),
              Number(time % 1_000_000n),
              Number(start / 1_000_000n),
              Number(start % 1_000_000n),
              (((point.flags as number) ?? 0) & 1) | flags,
              layout,
              columns.map(special),
            ]),
          );
        }
      }
    }
  }
  return lines.sort();
}

function attributesOf(pairs: Json[]): Attributes {
  return Object.fromEntries(pairs.map(({ key, value }) => [key ?? "", anyOf(value as Json)])) as Attributes;
}

function anyOf(value: Json | undefined): unknown {
  if (!value) return "";
  if (value.stringValue !== undefined) return value.stringValue;
  if (value.boolValue !== undefined) return value.boolValue;
  if (value.intValue !== undefined) return Number(value.intValue);
  if (value.doubleValue !== undefined) return value.doubleValue;
  if (value.arrayValue) return (((value.arrayValue as Json).values as Json[]) ?? []).map(anyOf);
  if (value.kvlistValue) return attributesOf(((value.kvlistValue as Json).values as Json[]) ?? []);
  return value.bytesValue ?? "";
}

function valuesOf(kind: string, point: Json): { layout: unknown; columns: number[]; flags: number } {
  const absent = (name: string, flag: number) => (point[name] === undefined ? flag : 0);
  const measured = [Number(point.min ?? 0), Number(point.max ?? 0), Number(point.sum ?? 0)];
  const missing = absent("sum", FLAG.noSum) | absent("min", FLAG.noMin) | absent("max", FLAG.noMax);
  const counts = (value: unknown) => ((value ?? []) as string[]).map(Number);
  if (kind === "histogram") {
    const buckets = counts(point.bucketCounts);
    return {
      layout: { kind: "explicit", bounds: point.explicitBounds ?? [] },
      columns: [...(buckets.length > 0 ? buckets : [Number(point.count ?? 0)]), ...measured],
      flags: missing,
    };
  }
  if (kind === "exponential") {
    const range = (value: Json | undefined) => {
      const all = counts(value?.bucketCounts);
      const from = all.findIndex((count) => count > 0);
      if (from < 0) return { layout: { from: 0, width: 0 }, counts: [] };
      const to = all.findLastIndex((count) => count > 0);
      return {
        layout: { from: Number(value?.offset ?? 0) + from, width: to - from + 1 },
        counts: all.slice(from, to + 1),
      };
    };
    const negative = range(point.negative as Json);
    const positive = range(point.positive as Json);
    const layout = {
      kind: "exponential",
      scale: Number(point.scale ?? 0),
      zeroThreshold: Number(point.zeroThreshold ?? 0),
      negative: negative.layout,
      positive: positive.layout,
    };
    return {
      layout,
      columns: [Number(point.zeroCount ?? 0), ...negative.counts, ...positive.counts, ...measured],
      flags: missing,
    };
  }
  if (kind === "summary") {
    const pairs = (point.quantileValues ?? []) as Json[];
    return {
      layout: { kind: "summary", quantiles: pairs.map(({ quantile }) => quantile ?? 0) },
      columns: [...pairs.map(({ value }) => Number(value ?? 0)), Number(point.count ?? 0), Number(point.sum ?? 0)],
      flags: 0,
    };
  }
  return {
    layout: { kind: "number" },
    columns: [Number(point.asInt ?? point.asDouble ?? 0)],
    flags: point.asInt !== undefined ? FLAG.integer : 0,
  };
}

const text = fc.string({ unit: fc.constantFrom("a", "ö", "☂", "z", "1", " "), maxLength: 12 });
const anyValue: fc.Arbitrary<Json> = fc.letrec<{ any: Json }>((tie) => ({
  any: fc.oneof(
    { maxDepth: 2 },
    text.map((stringValue) => ({ stringValue })),
    fc.boolean().map((boolValue) => ({ boolValue })),
    fc.integer().map((intValue) => ({ intValue })),
    fc.bigInt({ min: -(2n ** 52n), max: 2n ** 52n }).map((value) => ({ intValue: String(value) })),
    fc
      .double({ noNaN: true, noDefaultInfinity: true })
      .filter((value) => !Object.is(value, -0))
      .map((doubleValue) => ({ doubleValue })),
    fc.array(tie("any"), { maxLength: 2 }).map((values) => ({ arrayValue: { values } })),
    fc.tuple(text, tie("any")).map(([key, value]) => ({ kvlistValue: { values: [{ key, value }] } })),
  ),
})).any;
const attributes = fc.uniqueArray(
  fc.record({ key: fc.constantFrom("depot", "tool.kind", "http.route", "ärger"), value: anyValue }),
  { selector: ({ key }) => key, maxLength: 3 },
);
const nanos = fc.bigInt({ min: 1n, max: 2n ** 61n }).map(String);
const number = fc.oneof(fc.double({ noNaN: true }), fc.constantFrom(0, -0, 1e300, Number.POSITIVE_INFINITY));
const count = fc.oneof(fc.nat(300), fc.integer({ min: 2 ** 32, max: 2 ** 45 }));
const head = {
  attributes,
  timeUnixNano: nanos,
  startTimeUnixNano: fc.option(nanos, { nil: undefined }),
  flags: fc.constantFrom(undefined, 0, 1),
};
const optional = (value: fc.Arbitrary<number>) => fc.option(value, { nil: undefined });
const hex = (bytes: number) => fc.uint8Array({ minLength: bytes, maxLength: bytes });
const exemplars = fc.array(
  fc.record({
    timeUnixNano: nanos,
    asDouble: fc.double({ noNaN: true }),
    traceId: hex(16),
    spanId: hex(8),
    filteredAttributes: attributes,
  }),
  { maxLength: 2 },
);
const numberPoint = fc.oneof(
  fc.record({ ...head, asDouble: number, exemplars }),
  fc.record({ ...head, asInt: fc.bigInt({ min: -(2n ** 62n), max: 2n ** 62n }).map(String), exemplars }),
);
const sum = (list: readonly number[]) => list.reduce((total, value) => total + value, 0);
const explicitPoint = fc
  .record({
    ...head,
    bounds: fc.uniqueArray(fc.integer({ min: -9, max: 40 }), { maxLength: 6 }),
    all: fc.array(count, { minLength: 7, maxLength: 7 }),
    sum: optional(number),
    min: optional(number),
    max: optional(number),
    bare: fc.boolean(),
  })
  .map(({ bounds, all, bare, ...rest }) => {
    if (bare) return { ...rest, count: String(all[0]) };
    const bucketCounts = all.slice(0, bounds.length + 1);
    return {
      ...rest,
      explicitBounds: bounds.sort((a, b) => a - b),
      bucketCounts: bucketCounts.map(String),
      count: String(sum(bucketCounts)),
    };
  });
const bucketRange = fc.option(
  fc.record({
    offset: fc.integer({ min: -200, max: 200 }),
    counts: fc.array(fc.oneof(fc.constant(0), count), { maxLength: 12 }),
  }),
  { nil: undefined },
);
const exponentialPoint = fc
  .record({
    ...head,
    scale: fc.integer({ min: -10, max: 20 }),
    zero: count,
    positive: bucketRange,
    negative: bucketRange,
    zeroThreshold: fc.constantFrom(0, 0.25),
    sum: optional(number),
    min: optional(number),
    max: optional(number),
  })
  .map(({ zero, positive, negative, ...rest }) => ({
    ...rest,
    zeroCount: String(zero),
    ...(positive ? { positive: { offset: positive.offset, bucketCounts: positive.counts.map(String) } } : {}),
    ...(negative ? { negative: { offset: negative.offset, bucketCounts: negative.counts.map(String) } } : {}),
    count: String(zero + sum(positive?.counts ?? []) + sum(negative?.counts ?? [])),
  }));
const summaryPoint = fc.record({
  ...head,
  count: count.map(String),
  sum: number,
  quantileValues: fc.array(fc.record({ quantile: fc.double({ min: 0, max: 1, noNaN: true }), value: number }), {
    maxLength: 3,
  }),
});
const points = <T>(point: fc.Arbitrary<T>) => fc.array(point, { minLength: 1, maxLength: 4 });
const temporality = fc.constantFrom(1, 2);
const data = fc.oneof(
  points(numberPoint).map((dataPoints) => ({ gauge: { dataPoints } })),
  fc
    .record({ dataPoints: points(numberPoint), aggregationTemporality: temporality, isMonotonic: fc.boolean() })
    .map((value) => ({ sum: value })),
  fc
    .record({ dataPoints: points(explicitPoint), aggregationTemporality: temporality })
    .map((histogram) => ({ histogram })),
  fc
    .record({ dataPoints: points(exponentialPoint), aggregationTemporality: temporality })
    .map((exponentialHistogram) => ({ exponentialHistogram })),
  points(summaryPoint).map((dataPoints) => ({ summary: { dataPoints } })),
);
const metric = fc
  .tuple(
    fc.record({
      name: fc.constantFrom("loan.reserved", "locker.open.duration", "größe"),
      unit: fc.constantFrom(undefined, "s", "{loan}"),
      description: text,
    }),
    data,
  )
  .map(([named, value]) => ({ ...named, ...value }));
const request = fc.record({
  resourceMetrics: fc.array(
    fc.record({
      resource: fc.record({ attributes }),
      scopeMetrics: fc.array(
        fc.record({ scope: fc.record({ name: text, version: text }), metrics: fc.array(metric, { maxLength: 3 }) }),
        { maxLength: 2 },
      ),
    }),
    { maxLength: 3 },
  ),
});

function withoutUndefined(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withoutUndefined);
  if (value instanceof Uint8Array || typeof value !== "object" || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).flatMap(([key, inner]) => (inner === undefined ? [] : [[key, withoutUndefined(inner)]])),
  );
}

function encode(message: unknown): Uint8Array {
  return Request.encode(Request.fromObject(withoutUndefined(message) as Json)).finish();
}

/** A dictionary that has met the request before reads it by comparing bytes; a new one parses every attribute. */
function decodeTwice(bytes: Uint8Array): [string[], string[]] {
  const dictionary = new Dictionary();
  return [flat(decodeMetrics(bytes, dictionary, ALLOWED)), flat(decodeMetrics(bytes, dictionary, ALLOWED))];
}

describe("values equal those of a general protobuf library", () => {
  test("on random requests with every kind of point, met for the first and the second time", () => {
    fc.assert(
      fc.property(request, (message) => {
        const bytes = encode(message);
        const wanted = expected(bytes);
        const [first, second] = decodeTwice(bytes);
        expect(first).toEqual(wanted);
        expect(second).toEqual(wanted);
      }),
      { numRuns: 600 },
    );
  });

  test("the same requests as JSON say the same", () => {
    const inHex = (value: unknown): unknown => {
      if (value instanceof Uint8Array) return Buffer.from(value).toString("hex");
      if (Array.isArray(value)) return value.map(inHex);
      if (typeof value === "number" && !Number.isFinite(value)) return String(value);
      if (typeof value !== "object" || value === null) return value;
      return Object.fromEntries(Object.entries(value).map(([key, inner]) => [key, inHex(inner)]));
    };
    fc.assert(
      fc.property(request, (message) => {
        const bytes = encode(message);
        const json = JSON.stringify(inHex(withoutUndefined(message)), (_, value) =>
          Object.is(value, -0) ? "-0" : value,
        );
        const batch = decodeMetricsJson(json, new Dictionary(), ALLOWED);
        expect(flat(batch)).toEqual(expected(bytes));
        const fromWire = decodeMetrics(bytes, new Dictionary(), ALLOWED);
        const strip = (one: Batch) =>
          one.exemplars.map(({ series: _, ...rest }) => ({ ...rest, attributes: sorted(rest.attributes) }));
        expect(strip(batch)).toEqual(strip(fromWire));
      }),
      { numRuns: 300 },
    );
  });

  test("unknown fields are passed over at every level, and packed and unpacked counts read the same", () => {
    const unknown = [
      0x98, 0x06, 0x05, 0xa2, 0x06, 0x02, 0x01, 0x02, 0xa9, 0x06, 1, 2, 3, 4, 5, 6, 7, 8, 0xad, 0x06, 1, 2, 3, 4,
    ];
    const field = (tag: number, body: number[]) => [
      tag,
      ...(body.length < 128 ? [body.length] : [(body.length & 127) | 128, body.length >> 7]),
      ...body,
    ];
    const fixed = (value: number) => [value, 0, 0, 0, 0, 0, 0, 0];
    const time = [0x19, 0, 0, 0, 0, 1, 0, 0, 0];
    const head = [...time, 0x21, ...fixed(3)];
    const bounds = field(0x3a, [0, 0, 0, 0, 0, 0, 0xf0, 0x3f]);
    const packed = field(0x32, [...fixed(1), ...fixed(2)]);
    const loose = [0x31, ...fixed(1), ...unknown, 0x31, ...fixed(2)];
    const requestOf = (counts: number[]) => {
      const point = [...unknown, ...head, ...counts, ...bounds, ...unknown];
      const histogram = [...unknown, ...field(0x0a, point), 0x10, 2];
      const one = [...unknown, ...field(0x0a, [0x61]), ...field(0x4a, histogram)];
      return Uint8Array.from([
        ...unknown,
        ...field(0x0a, [...unknown, ...field(0x12, [...unknown, ...field(0x12, one)])]),
      ]);
    };
    const [a] = decodeTwice(requestOf(packed));
    const [b] = decodeTwice(requestOf(loose));
    expect(a).toEqual(b);
    expect(a).toEqual(expected(requestOf(packed)));
    expect(a).toHaveLength(1);
  });
});

test("attributes in another order are the same series", () => {
  const dictionary = new Dictionary();
  const pair = [
    { key: "a", value: { stringValue: "1" } },
    { key: "b", value: { intValue: 2 } },
  ];
  const of = (list: typeof pair) =>
    encode({
      resourceMetrics: [
        {
          scopeMetrics: [
            {
              metrics: [
                { name: "m", gauge: { dataPoints: [{ attributes: list, timeUnixNano: "1000000", asDouble: 1 }] } },
              ],
            },
          ],
        },
      ],
    });
  const [first] = decodeMetrics(of(pair), dictionary, ALLOWED).series();
  const [second] = decodeMetrics(of([...pair].reverse()), dictionary, ALLOWED).series();
  expect(second).toBe(first);
});

describe("what is wrong is refused with a reason, and the rest goes in", () => {
  const good = { timeUnixNano: "1000000", asDouble: 1 };
  const send = (...metrics: Json[]) =>
    decodeMetrics(
      encode({
        resourceMetrics: [
          { scopeMetrics: [{ metrics: [{ name: "fine", gauge: { dataPoints: [good] } }, ...metrics] }] },
        ],
      }),
      new Dictionary(),
      ALLOWED,
    );
  test.each<[string, Json, string]>([
    ["no name", { name: "", gauge: { dataPoints: [good] } }, "no name"],
    ["no time", { name: "m", gauge: { dataPoints: [{ asDouble: 1 }] } }, "no time"],
    [
      "the far future",
      { name: "m", gauge: { dataPoints: [{ timeUnixNano: "9000000000000000000", asDouble: 1 }] } },
      "clock",
    ],
    ["no value", { name: "m", gauge: { dataPoints: [{ timeUnixNano: "1000000" }] } }, "no value"],
    ["no temporality", { name: "m", sum: { dataPoints: [good] } }, "temporality"],
    [
      "counts that do not add up",
      {
        name: "m",
        histogram: {
          aggregationTemporality: 2,
          dataPoints: [{ timeUnixNano: "1", count: "5", explicitBounds: [1], bucketCounts: ["1", "2"] }],
        },
      },
      "add up to 3",
    ],
    [
      "bounds that do not rise",
      {
        name: "m",
        histogram: {
          aggregationTemporality: 2,
          dataPoints: [{ timeUnixNano: "1", count: "0", explicitBounds: [2, 1], bucketCounts: ["0", "0", "0"] }],
        },
      },
      "do not rise",
    ],
    [
      "a count too few",
      {
        name: "m",
        histogram: {
          aggregationTemporality: 2,
          dataPoints: [{ timeUnixNano: "1", count: "1", explicitBounds: [1], bucketCounts: ["1"] }],
        },
      },
      "one more count",
    ],
    [
      "too long a value",
      {
        name: "m",
        gauge: { dataPoints: [{ ...good, attributes: [{ key: "k", value: { stringValue: "x".repeat(5000) } }] }] },
      },
      "5000 characters",
    ],
    [
      "a value that is no text",
      {
        name: "m",
        gauge: { dataPoints: [{ ...good, attributes: [{ key: "k", value: { stringValue: "a\u0000b" } }] }] },
      },
      "no text",
    ],
  ])("%s", (_, metric, reason) => {
    const batch = send(metric);
    expect(batch.points).toBe(1);
    expect(batch.rejected).toBe(1);
    expect(batch.message()).toContain(reason);
  });
});

test("random and damaged bytes are a WireError or a batch, never anything else", () => {
  const sound = encode({
    resourceMetrics: [
      {
        resource: { attributes: [{ key: "service.name", value: { stringValue: "loans" } }] },
        scopeMetrics: [
          {
            metrics: [
              {
                name: "m",
                histogram: {
                  aggregationTemporality: 2,
                  dataPoints: [
                    {
                      timeUnixNano: "1000000",
                      count: "3",
                      explicitBounds: [1],
                      bucketCounts: ["1", "2"],
                      exemplars: [{ asDouble: 1, timeUnixNano: "5" }],
                    },
                  ],
                },
              },
            ],
          },
        ],
      },
    ],
  });
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.nat(sound.length - 1), fc.nat(255)), { maxLength: 5 }),
      fc.nat(sound.length),
      (changes, length) => {
        const damaged = sound.slice(0, length);
        for (const [at, byte] of changes) if (at < length) damaged[at] = byte;
        try {
          decodeMetrics(damaged, new Dictionary(), ALLOWED);
        } catch (error) {
          if (!(error instanceof WireError)) throw error;
        }
      },
    ),
    { numRuns: 5000 },
  );
});
