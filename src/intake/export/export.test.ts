import fc from "fast-check";
import { Batch } from "@/core/otlp/batch/batch";
import { itemsOf } from "@/core/otlp/batch/sideOutputs";
import { Dictionary } from "@/core/otlp/dictionary";
import { anySpan } from "@/core/pipeline/arbitrary";
import { backoff } from "./backoff";
import { retryAfter } from "./request";
import { cut } from "./split";

const identity = { name: "m", kind: "sum", unit: "1", temporality: "delta", monotonic: true } as const;

function batchOf(points: number): Batch {
  const dictionary = new Dictionary();
  const batch = new Batch();
  for (let i = 0; i < points; i++) {
    const attributes = { number: String(i % 7) };
    const series = dictionary.series(dictionary.metric(identity, ""), {
      resource: { "service.name": "loans" },
      scope: { name: "", version: "" },
      attributes,
    });
    batch.number(series, { timeMs: 1_764_000_000_000 + i, timeNs: 0, startMs: 0, startNs: 0, flags: 0 }, i);
  }
  return batch;
}

test("content is cut into parts of at most so many, and nothing is lost or doubled", () => {
  fc.assert(
    fc.property(fc.nat(60), fc.integer({ min: 1, max: 25 }), (points, most) => {
      const parts = cut({ signal: "metrics", batch: batchOf(points) }, most);
      for (const part of parts) expect(itemsOf(part)).toBeLessThanOrEqual(most);
      const values = parts.flatMap((part) =>
        part.signal === "metrics" ? part.batch.inColumns().sets.flatMap(({ set }) => [...set.columns[0]]) : [],
      );
      expect(values.sort((a, b) => a - b)).toEqual(Array.from({ length: points }, (_, i) => i));
    }),
  );
  fc.assert(
    fc.property(fc.array(anySpan, { maxLength: 20 }), fc.integer({ min: 1, max: 9 }), (spans, most) => {
      const parts = cut({ signal: "traces", spans }, most);
      expect(parts.flatMap((part) => (part.signal === "traces" ? part.spans : []))).toEqual(spans);
      expect(parts).toHaveLength(Math.ceil(spans.length / most));
    }),
  );
});

test("exemplars count as well, and go where a point of their series goes", () => {
  const exemplar = { ns: 0, traceId: "", spanId: "", attributes: {} };
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 60 }), fc.nat(20), fc.integer({ min: 1, max: 40 }), (points, each, most) => {
      const batch = batchOf(points);
      const { all } = batch.inColumns();
      for (const series of all)
        for (let i = 0; i < each; i++)
          batch.exemplars.push({ ...exemplar, series, ms: 1_764_000_000_000 + i, value: i });
      const came = batch.exemplars.length;
      const parts = cut({ signal: "metrics", batch }, most).map((part) =>
        part.signal === "metrics" ? part.batch : batch,
      );
      expect(parts.reduce((sum, part) => sum + part.points, 0)).toBe(points);
      expect(parts.reduce((sum, part) => sum + part.exemplars.length, 0)).toBe(came);
      for (const part of parts) {
        const here = new Set(part.inColumns().all);
        expect(part.exemplars.every(({ series }) => here.has(series))).toBe(true);
        if (part.points > 1) expect(part.points + part.exemplars.length).toBeLessThanOrEqual(most);
      }
    }),
  );
});

test("waits grow twice as long up to a bound, differ, and are never shorter than what the other side asked for", () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 40 }), fc.double({ min: 0, max: 1, noNaN: true }), (attempt, random) => {
      const wait = backoff(attempt, null, random);
      const full = Math.min(30_000, 1000 * 2 ** (attempt - 1));
      expect(wait).toBeGreaterThanOrEqual(Math.floor(full / 2));
      expect(wait).toBeLessThanOrEqual(full);
      expect(backoff(attempt, 45_000, random)).toBeGreaterThanOrEqual(45_000);
    }),
  );
  expect(backoff(3, null, 0.1)).not.toBe(backoff(3, null, 0.9));
});

test.each([
  ["7", 7000],
  [" 0", 0],
  ["Tue, 24 Nov 2026 12:00:10 GMT", 10_000],
  ["Tue, 24 Nov 2026 11:00:00 GMT", null],
  ["soon", null],
  ["999999", 3600_000],
  [undefined, null],
])("Retry-After: %s is %s ms", (text, ms) => {
  expect(retryAfter(text, Date.parse("2026-11-24T12:00:00Z"))).toBe(ms);
});
