import fc from "fast-check";
import { Dictionary } from "../otlp/dictionary";
import { anyLogRecord, anySpan, ORIGIN } from "../pipeline/arbitrary";
import { pipelineSchema } from "../pipeline/config";
import { Pipeline } from "../pipeline/pipeline";
import { tryRecords } from "./recordDryRun";

const tried = (parts: object) => {
  const config = pipelineSchema.parse(parts);
  return { config, pipeline: new Pipeline(0, config, new Dictionary(), ORIGIN) };
};

/** About what records take: their texts, and so much for times and ids. */
const textSize = (attributes: object) =>
  Object.entries(attributes).reduce(
    (sum, [key, value]) =>
      sum + 8 + key.length + (typeof value === "object" ? JSON.stringify(value) : String(value)).length,
    0,
  );

test("how many spans are left, and how large they are, is what counting by hand gives", () => {
  fc.assert(
    fc.property(fc.array(anySpan, { maxLength: 25 }), (spans) => {
      const traces = [{ id: "d", type: "drop", where: 'span.kind is "client"' }];
      const { config, pipeline } = tried({ traces });
      const dryRun = tryRecords(pipeline, config.traces, spans, ORIGIN, () => {});
      const left = spans.filter(({ kind }) => kind !== "client");
      const size = (all: typeof spans) =>
        all.reduce((sum, { name, attributes }) => sum + 60 + name.length + textSize(attributes), 0);
      expect(dryRun.arrivals).toEqual({ records: spans.length, bytes: size(spans) });
      expect(dryRun.stored).toEqual({ records: left.length, bytes: size(left) });
      for (const { before, after } of dryRun.examples) if (after) expect(after).toEqual(before);
    }),
  );
});

test("whole traces are decided on with all of their spans there are, and counts wait for the lane of metrics", () => {
  fc.assert(
    fc.property(fc.array(anySpan, { maxLength: 25 }), (all) => {
      const spans = all.map((span, i) => ({ ...span, traceId: String(i % 3).padStart(32, "a") }));
      const traces = [
        { id: "n", type: "spans" },
        { id: "t", type: "tail", share: 0 },
      ];
      const { config, pipeline } = tried({ traces });
      const waiting: string[] = [];
      const dryRun = tryRecords(pipeline, config.traces, spans, ORIGIN + 60_000, (step) => waiting.push(step));
      const failed = new Set(spans.filter(({ status }) => status === "error").map(({ traceId }) => traceId));
      expect(dryRun.stored.records).toBe(spans.filter(({ traceId }) => failed.has(traceId)).length);
      expect(waiting).toEqual(spans.length > 0 ? ["n"] : []);
      for (const example of dryRun.examples) expect([example.after, example.waits]).toEqual([null, true]);
    }),
  );
});

test("log records are told by their text, before and after", () => {
  const [record] = fc.sample(anyLogRecord, 1);
  const logs = [{ id: "r", type: "redact", attributes: ["log.body"], pattern: "[0-9]+" }];
  const { config, pipeline } = tried({ logs });
  const one = { ...record, severity: 17, body: "door 12 stuck", attributes: {} };
  const { examples, stored } = tryRecords(pipeline, config.logs, [one], ORIGIN, () => {});
  expect(examples).toEqual([
    {
      before: { title: "ERROR door 12 stuck", attributes: {} },
      after: { title: "ERROR door *** stuck", attributes: {} },
      waits: false,
    },
  ]);
  expect(stored).toEqual({ records: 1, bytes: "door *** stuck".length + 40 });
});
