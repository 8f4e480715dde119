import fc from "fast-check";
import { sampledBefore } from "../draft/mistakes";
import { Batch } from "../otlp/batch/batch";
import { Dictionary } from "../otlp/dictionary";
import { anyLogRecord, anySpan, ORIGIN } from "./arbitrary";
import { EMPTY_PIPELINE, pipelineSchema } from "./config";
import { exportersOf } from "./exporters";
import { countedSteps, Pipeline } from "./pipeline";

const OTHER = { id: "other", type: "otlp", url: "http://localhost:4395" };
const pipelineOf = (parts: object, dictionary = new Dictionary()) =>
  new Pipeline(7, pipelineSchema.parse(parts), dictionary, ORIGIN);

function points(dictionary: Dictionary, values: readonly number[]): Batch {
  const identity = { name: "m", kind: "sum", unit: "1", temporality: "delta", monotonic: true } as const;
  const batch = new Batch();
  values.forEach((value, i) => {
    const series = dictionary.series(dictionary.metric(identity, ""), {
      resource: { "service.name": "loans" },
      scope: { name: "", version: "" },
      attributes: { depot: `depot ${i % 3}` },
    });
    batch.number(series, { timeMs: ORIGIN + i, timeNs: 0, startMs: 0, startNs: 0, flags: 0 }, value);
  });
  return batch;
}

describe("where what comes out goes", () => {
  test("to the store alone, nothing is put aside", () => {
    const dictionary = new Dictionary();
    const batch = points(dictionary, [1, 2, 3]);
    pipelineOf({}, dictionary).admit(batch);
    expect([batch.points, batch.sideOutputs]).toEqual([3, null]);
  });

  test("every point is stored where there is a store, and goes to each exporter that takes metrics and is on", () => {
    const kinds = fc.subarray([
      { id: "store", type: "store" },
      OTHER,
      { ...OTHER, id: "off", on: false },
      { ...OTHER, id: "spans", signals: ["traces"] },
      { id: "page", type: "openmetrics" },
    ]);
    fc.assert(
      fc.property(kinds, fc.array(fc.nat(9), { minLength: 1, maxLength: 20 }), (exporters, values) => {
        const dictionary = new Dictionary();
        const batch = points(dictionary, values);
        pipelineOf({ exporters }, dictionary).admit(batch);
        const names = exporters.map(({ id }) => id);
        expect(batch.points).toBe(names.includes("store") ? values.length : 0);
        const wanted = ["other", "page"].filter((id) => names.includes(id));
        expect((batch.sideOutputs?.exports ?? []).map(({ exporter }) => exporter).sort()).toEqual(wanted);
        for (const { content } of batch.sideOutputs?.exports ?? [])
          expect(content.signal === "metrics" && content.batch.points).toBe(values.length);
      }),
    );
  });

  test("what a step dropped goes nowhere", () => {
    const dictionary = new Dictionary();
    const batch = points(dictionary, [1, 2, 3, 4, 5, 6]);
    const metrics = [{ id: "d", type: "drop", where: 'depot is "depot 0"' }];
    pipelineOf({ metrics, exporters: [OTHER] }, dictionary).admit(batch);
    expect(batch.points).toBe(0);
    const [{ content }] = batch.sideOutputs!.exports;
    expect(content.signal === "metrics" && content.batch.points).toBe(4);
  });

  test("spans and log records are stored and sent on by their own signals", () => {
    fc.assert(
      fc.property(fc.array(anySpan, { maxLength: 5 }), fc.array(anyLogRecord, { maxLength: 5 }), (spans, records) => {
        const exporters = [
          { id: "store", type: "store", signals: ["traces"] },
          { ...OTHER, signals: ["logs"] },
        ];
        const pipeline = pipelineOf({ exporters });
        const traces = pipeline.admitSpans(spans, ORIGIN).sideOutputs!;
        expect([traces.spans, traces.exports]).toEqual([spans, []]);
        const logs = pipeline.admitLogs(records, ORIGIN).sideOutputs!;
        expect(logs.records).toEqual([]);
        expect(logs.exports.flatMap(({ content }) => (content.signal === "logs" ? content.records : []))).toEqual(
          records,
        );
      }),
    );
  });

  test("receivers take what they are told to", () => {
    const pipeline = pipelineOf({ receivers: { otlp: ["metrics", "logs"], scrape: false } });
    expect(pipeline.receives("otlp", "metrics")).toBe(true);
    expect(pipeline.receives("otlp", "traces")).toBe(false);
    expect(pipeline.receives("scrape", "metrics")).toBe(false);
  });
});

describe("what may stand in a configuration", () => {
  test("nothing said is everything received and stored", () => {
    expect(EMPTY_PIPELINE).toMatchObject({ metrics: [], traces: [], logs: [], exporters: [{ id: "store" }] });
    expect(exportersOf(EMPTY_PIPELINE.exporters, "logs")).toHaveLength(1);
    expect(pipelineSchema.parse(JSON.parse(JSON.stringify(EMPTY_PIPELINE)))).toEqual(EMPTY_PIPELINE);
  });

  const step = { id: "a", type: "keep" };
  test.each<[string, object, string]>([
    ["one id in two lanes", { metrics: [step], logs: [step] }, "logs.0.id: something else is called a"],
    ["a step and an exporter of one id", { traces: [step], exporters: [{ ...OTHER, id: "a" }] }, "exporters.0.id"],
    [
      "two stores",
      {
        exporters: [
          { id: "s", type: "store" },
          { id: "t", type: "store" },
        ],
      },
      "there is one store",
    ],
    ["an address that is none", { exporters: [{ ...OTHER, url: "localhost:4318" }] }, "begins with http://"],
    ["a password in an address", { exporters: [{ ...OTHER, url: "http://a:b@localhost" }] }, "secret header"],
    ["a header with a blank", { exporters: [{ ...OTHER, headers: { "a b": "c" } }] }, "exporters.0.headers"],
    ["traces on a page", { exporters: [{ id: "p", type: "openmetrics", signals: ["traces"] }] }, "signals"],
    ["a share above one", { traces: [{ id: "s", type: "sample", share: 2 }] }, "not above 1"],
    ["bounds that fall", { traces: [{ id: "s", type: "spans", bounds: [2, 1] }] }, "bounds rise"],
    ["tail sampling of log records", { logs: [{ id: "s", type: "tail" }] }, "logs.0.type"],
    ["a condition that is not understood", { logs: [{ ...step, where: "log.body is" }] }, "logs.0.where"],
  ])("%s is refused with its place", (_, parts, message) => {
    const parsed = pipelineSchema.safeParse(parts);
    const text = parsed.success
      ? ""
      : parsed.error.issues.map((one) => `${one.path.join(".")}: ${one.message}`).join("; ");
    expect(text).toContain(message);
  });

  test("steps that count are known to the lane for metrics unless they are off; behind a sample they count too little", () => {
    const { traces, logs } = pipelineSchema.parse({
      traces: [
        { id: "before", type: "spans" },
        { id: "some", type: "sample", share: 0.5 },
        { id: "after", type: "spans", every: 20 },
        { id: "off", type: "spans", on: false },
      ],
      logs: [{ id: "lines", type: "records", to: "log.lines" }],
    });
    expect(countedSteps({ traces, logs }).map(({ id, every }) => [id, every])).toEqual([
      ["before", 10],
      ["after", 20],
      ["lines", 10],
    ]);
    expect(sampledBefore(traces)).toEqual(["after"]);
    expect(sampledBefore(logs)).toEqual([]);
  });
});
