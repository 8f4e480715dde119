import fc from "fast-check";
import { type Attributes, FLAG } from "../metric/model";
import { ADMIT_ALL } from "./batch/admission";
import type { Batch } from "./batch/batch";
import { Dictionary } from "./dictionary";
import { decodeMetricsJson } from "./json";
import { decodeMetrics } from "./protobuf";
import { flat, sorted, special } from "./testing/flat";
import { encode, request, withoutUndefined } from "./testing/requests";
import { Request } from "./testing/schema";
import { WireError } from "./wire";

const ALLOWED = { ...ADMIT_ALL, to: 4e12 };

type Json = Record<string, unknown>;

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
