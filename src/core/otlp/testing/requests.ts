import fc from "fast-check";
import { Request } from "./schema";

/** Metrics requests of every kind, as plain data of the message definition. */

type Json = Record<string, unknown>;

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
    offset: fc.integer({ min: -100, max: 100 }),
    counts: fc.array(fc.oneof(fc.constant(0), count), { maxLength: 12 }),
  }),
  { nil: undefined },
);
const exponentialPoint = fc
  .record({
    ...head,
    // Coarser, and the buckets above would lie where no number is.
    scale: fc.integer({ min: -3, max: 20 }),
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
export const request = fc.record({
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

export function withoutUndefined(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(withoutUndefined);
  if (value instanceof Uint8Array || typeof value !== "object" || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).flatMap(([key, inner]) => (inner === undefined ? [] : [[key, withoutUndefined(inner)]])),
  );
}

/** A request in the standard's binary form, by a general library. */
export function encode(message: unknown): Uint8Array {
  return Request.encode(Request.fromObject(withoutUndefined(message) as Json)).finish();
}
