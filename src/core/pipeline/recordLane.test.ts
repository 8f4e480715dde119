import fc from "fast-check";
import type { LogRecord } from "../log/model";
import { severityName } from "../log/model";
import { valueText } from "../metric/text";
import { Batch } from "../otlp/batch/batch";
import { Dictionary } from "../otlp/dictionary";
import { heldSeries, readHeld } from "../reading/offline";
import type { Span } from "../span/model";
import { anyLogRecord, anySpan, ORIGIN } from "./arbitrary";
import { pipelineSchema } from "./config";
import { readJson, readLogfmt } from "./parseText";
import { Pipeline } from "./pipeline";
import { RecordLane } from "./recordLane";
import { randomnessOf, sampled, thresholdOf } from "./sampling";
import type { TailStep } from "./steps";
import { decide, decided } from "./tail";

const NOW = ORIGIN + 3600_000;
const config = (parts: object) => pipelineSchema.parse(parts);
const spanLane = (...traces: object[]) => new RecordLane(config({ traces }).traces, new Dictionary());
const logLane = (...logs: object[]) => new RecordLane(config({ logs }).logs, new Dictionary());
const spansOf = fc.uniqueArray(anySpan, { maxLength: 30, selector: ({ traceId, spanId }) => traceId + spanId });

describe("steps on records, one by one", () => {
  test("what is kept and what is dropped are together all there was", () => {
    fc.assert(
      fc.property(spansOf, (spans) => {
        const where = 'span.status is "error" or span.duration > 2';
        const kept = spanLane({ id: "a", type: "keep", where }).admit(spans, NOW).out;
        const left = spanLane({ id: "a", type: "drop", where }).admit(spans, NOW).out;
        expect(kept.length + left.length).toBe(spans.length);
        for (const span of kept) expect(span.status === "error" || span.took > 2e9).toBe(true);
        for (const span of left) expect(span.status === "error" || span.took > 2e9).toBe(false);
      }),
    );
  });

  test("a lane whose steps match nothing changes nothing", () => {
    fc.assert(
      fc.property(spansOf, fc.array(anyLogRecord, { maxLength: 10 }), (spans, records) => {
        const never = { id: "a", where: 'depot is "nowhere at all"' };
        const lane = spanLane({ ...never, type: "hash", attributes: ["depot"] });
        expect(lane.admit(spans, NOW).out).toEqual(spans);
        const logs = logLane({ ...never, type: "redact", attributes: ["log.body"], pattern: "a" });
        expect(logs.admit(records, NOW).out).toEqual(records);
      }),
    );
  });

  test("a span's name and a record's body can be changed like attributes", () => {
    const [span] = fc.sample(anySpan, 1);
    const [record] = fc.sample(anyLogRecord, 1);
    const fold = { id: "a", type: "fold", attribute: "span.name", folds: ["numbers"] };
    expect(spanLane(fold).admit([{ ...span, name: "GET /loans/81273" }], NOW).out[0].name).toBe("GET /loans/{id}");
    const redact = { id: "a", type: "redact", attributes: ["log.body"], pattern: "[a-z]+@[a-z.-]+" };
    const body = "mail to ada@fern-anvil.example failed";
    expect(logLane(redact).admit([{ ...record, body }], NOW).out[0].body).toBe("mail to *** failed");
    const set = { id: "a", type: "set", attribute: "team", value: "lending", where: 'service is "loans"' };
    const out = spanLane(set).admit([{ ...span, resource: { "service.name": "loans" } }], NOW).out[0];
    expect(out.attributes.team).toBe("lending");
    expect(Object.keys(out.attributes).some((name) => name.startsWith("span."))).toBe(false);
  });

  test("attributes are found in bodies; what was said is not overwritten", () => {
    const [record] = fc.sample(anyLogRecord, 1);
    const parsed = (step: object, body: string, attributes = {}) =>
      logLane({ id: "p", type: "parse", ...step }).admit([{ ...record, body, attributes }], NOW).out[0].attributes;
    expect(parsed({}, 'level=error msg="no \\"answer\\"" took=14.2 retry', { level: "warn" })).toEqual({
      level: "warn",
      msg: 'no "answer"',
      took: 14.2,
      retry: true,
    });
    expect(parsed({}, "no pairs here")).toEqual({});
    expect(parsed({ format: "json", prefix: "app." }, '{"took": 3, "inner": {"a": true}, "n": null}')).toEqual({
      "app.took": 3,
      "app.inner.a": true,
    });
    const pattern = "(?P<method>[A-Z]+) (?P<path>\\S+) (?P<status>\\d+)";
    expect(parsed({ format: "pattern", pattern }, "GET /tools 200 in 3 ms")).toEqual({
      method: "GET",
      path: "/tools",
      status: 200,
    });
  });

  test("a parse step without the pattern it needs, and counts without a field, are refused", () => {
    const parsed = pipelineSchema.safeParse({ logs: [{ id: "p", type: "parse", format: "pattern" }] });
    expect(parsed.success ? "" : parsed.error.issues[0].path.join(".")).toBe("logs.0.pattern");
    const sum = pipelineSchema.safeParse({ logs: [{ id: "p", type: "records", to: "x", what: "sum" }] });
    expect(sum.success ? "" : sum.error.issues[0].path.join(".")).toBe("logs.0.field");
  });
});

describe("reading texts", () => {
  test("logfmt that was written is read again", () => {
    const value = fc.oneof(
      fc.string({ maxLength: 20 }).filter((text) => [...text].every((char) => char >= " ")),
      fc.integer(),
      fc.boolean(),
    );
    const name = fc.stringMatching(/^[a-z][a-z0-9_.]{0,10}$/).filter((key) => key !== "__proto__");
    fc.assert(
      fc.property(fc.dictionary(name, value, { minKeys: 1, maxKeys: 8, noNullPrototype: true }), (pairs) => {
        const text = Object.entries(pairs)
          .map(([key, held]) =>
            typeof held === "string"
              ? `${key}="${held.replaceAll("\\", "\\\\").replaceAll('"', '\\"')}"`
              : `${key}=${held}`,
          )
          .join(" ");
        expect(readLogfmt(text)).toEqual(pairs);
      }),
    );
  });

  test("any text is read in no time and without an error", () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 400 }), (text) => {
        expect(typeof readLogfmt(text)).toBe("object");
        expect(typeof readJson(text)).toBe("object");
      }),
    );
    const long = 'a="'.repeat(20_000);
    expect(Object.keys(readLogfmt(long)).length).toBeLessThan(3);
  });
});

describe("sampling by share", () => {
  const traceId = fc
    .array(fc.constantFrom(..."0123456789abcdef"), { minLength: 32, maxLength: 32 })
    .map((all) => all.join(""));

  test("a smaller share keeps a part of what a larger one keeps, and all spans of a trace go the same way", () => {
    fc.assert(
      fc.property(
        anySpan,
        anySpan,
        traceId,
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (a, b, id, one, two) => {
          const [small, large] = [Math.min(one, two), Math.max(one, two)];
          const first = { ...a, traceId: id, state: "" };
          const second = { ...b, traceId: id, state: "" };
          expect(sampled(first, small) === null).toBe(sampled(second, small) === null);
          if (sampled(first, small)) expect(sampled(first, large)).not.toBeNull();
        },
      ),
    );
  });

  test("as many are kept as the share says", () => {
    const [span] = fc.sample(anySpan, 1);
    let random = 7;
    const digit = () => {
      random = (Math.imul(random, 1664525) + 1013904223) >>> 0;
      return ((random >>> 16) & 15).toString(16);
    };
    let kept = 0;
    for (let i = 0; i < 20_000; i++) {
      const id = Array.from({ length: 32 }, digit).join("");
      if (sampled({ ...span, traceId: id, state: "" }, 0.2)) kept++;
    }
    expect(kept / 20_000).toBeCloseTo(0.2, 1);
  });

  test("the threshold is told in the tracestate, the higher one stays, and a given randomness is used", () => {
    const [span] = fc.sample(anySpan, 1);
    const id = `${"a".repeat(18)}c0000000000000`;
    const half = sampled({ ...span, traceId: id, state: "vendor=1" }, 0.5);
    expect(half?.state).toBe("ot=th:8,vendor=1");
    expect(sampled({ ...span, traceId: id, state: "ot=th:c" }, 0.5)?.state).toBe("ot=th:c");
    expect(randomnessOf({ ...span, traceId: id, state: "ot=rv:00000000000001" })).toBe(1n);
    expect(sampled({ ...span, traceId: id, state: "ot=rv:00000000000001" }, 0.5)).toBeNull();
    expect(thresholdOf(1)).toBe(0n);
    expect(thresholdOf(0.25)).toBe(3n * 2n ** 54n);
  });

  test("a log record goes with its trace", () => {
    fc.assert(
      fc.property(anySpan, anyLogRecord, traceId, (span, record, id) => {
        const trace = sampled({ ...span, traceId: id, state: "" }, 0.3);
        expect(sampled({ ...record, traceId: id }, 0.3) === null).toBe(trace === null);
      }),
    );
  });
});

describe("tail sampling", () => {
  const step = config({ traces: [{ id: "t", type: "tail", slower: 5, share: 0 }] }).traces[0] as TailStep;

  test("a trace is kept where a span failed or took long, whatever the order of its spans", () => {
    fc.assert(
      fc.property(fc.array(anySpan, { minLength: 1, maxLength: 6 }), (spans) => {
        const wanted = spans.some(({ status, took }) => status === "error" || took > 5e9);
        const decision = decide(step, spans);
        expect(decision.kept).toBe(wanted);
        expect(decide(step, [...spans].reverse())).toEqual(decision);
        expect(decided(step, spans, decision)).toHaveLength(wanted ? spans.length : 0);
      }),
    );
  });

  test("spans wait at the step, and go on behind it once they are decided on", () => {
    const lane = spanLane(
      { id: "t", type: "tail" },
      { id: "s", type: "set", attribute: "seen", value: "yes", where: 'span.kind is "server"' },
    );
    const spans = fc.sample(anySpan, 5).map((span) => ({ ...span, kind: "server" as const }));
    const { out, undecided } = lane.admit(spans, NOW);
    expect(out).toEqual([]);
    expect(undecided).toEqual([{ step: "t", spans }]);
    expect(lane.resume("t", spans, NOW).out.map(({ attributes }) => attributes.seen)).toEqual(Array(5).fill("yes"));
    // A span is 60 bytes and its name, an attribute 8, its name and its value; "seen" and "yes" come to it.
    const size = (more: number) =>
      spans.reduce((sum, { name, attributes }) => {
        const texts = Object.entries(attributes).map(([key, value]) => 8 + key.length + valueText(value).length);
        return sum + 60 + name.length + texts.reduce((all, one) => all + one, 0) + more;
      }, 0);
    expect(lane.counts()).toEqual({
      t: { in: 5, out: 5, inBytes: size(0), outBytes: size(0) },
      s: { in: 5, out: 5, inBytes: size(0), outBytes: size(8 + 4 + 3) },
    });
  });
});

/** Runs arrivals through a pipeline, request by request, and closes every window. */
function metricsOf(parts: object, requests: readonly { spans?: Span[]; records?: LogRecord[] }[]): Batch {
  const pipeline = new Pipeline(1, config(parts), new Dictionary(), ORIGIN - 1000);
  const out = new Batch();
  const held = new Map<string, Batch>();
  const hold = (all: readonly { step: string; batch: Batch }[]) => {
    for (const { step, batch } of all) {
      const known = held.get(step);
      if (known) known.append(batch);
      else held.set(step, batch);
    }
  };
  for (const { spans = [], records = [] } of requests) {
    hold(pipeline.admitSpans(spans, NOW).sideOutputs?.waiting ?? []);
    hold(pipeline.admitLogs(records, NOW).sideOutputs?.waiting ?? []);
  }
  const lane = pipeline.metrics;
  for (const step of lane.waitingSteps) {
    const due = held.get(step);
    if (!due) continue;
    const done = lane.advance(step, due, lane.boundAfter(step, NOW));
    out.append(done.out);
    hold(done.waiting);
  }
  return out;
}

function total(batch: Batch, reading: string): Record<string, number> {
  const from = ORIGIN - 60_000;
  const asked = { from, to: NOW, every: NOW - from, zone: "UTC", picks: {} };
  const { series } = readHeld(reading, heldSeries([batch]), asked, from);
  return Object.fromEntries(series.map(({ labels, total: value }) => [Object.values(labels).join(" "), value ?? 0]));
}

/** How many of some things there are by a text. */
function counts<T>(all: readonly T[], key: (one: T) => string, amount: (one: T) => number = () => 1) {
  const found: Record<string, number> = {};
  for (const one of all) found[key(one)] = (found[key(one)] ?? 0) + amount(one);
  return found;
}

/** Cut into requests. */
function cut<T>(all: readonly T[], at: readonly number[]): T[][] {
  const parts: T[][] = [[]];
  all.forEach((one, i) => {
    if (at.includes(i)) parts.push([]);
    parts[parts.length - 1].push(one);
  });
  return parts;
}

describe("metrics from records agree with counting by hand", () => {
  test("spans: how many, how many failed, how long in all, in whatever requests they came", () => {
    fc.assert(
      fc.property(spansOf, fc.array(fc.nat(30), { maxLength: 4 }), (spans, at) => {
        const traces = [{ id: "m", type: "spans", attributes: ["span.name", "span.kind"], every: 10 }];
        const batch = metricsOf(
          { traces },
          cut(spans, at).map((some) => ({ spans: some })),
        );
        const nameAndKind = ({ name, kind }: Span) => `${name} ${kind}`;
        if (spans.length === 0) return expect(batch.points).toBe(0);
        expect(total(batch, "count of span.count by span.name, span.kind")).toEqual(counts(spans, nameAndKind));
        expect(total(batch, "count of span.duration by span.name, span.kind")).toEqual(counts(spans, nameAndKind));
        const failed = spans.filter(({ status }) => status === "error");
        if (failed.length > 0)
          expect(total(batch, "count of span.errors by span.name")).toEqual(counts(failed, ({ name }) => name));
        const took = total(batch, "sum of span.duration by service");
        const byHand = counts(
          spans,
          ({ resource }) => String(resource["service.name"]),
          ({ took: ns }) => ns / 1e9,
        );
        for (const [service, seconds] of Object.entries(byHand)) expect(took[service]).toBeCloseTo(seconds, 6);
        return undefined;
      }),
    );
  });

  test("log records: counts by severity, sums and histograms of a field that was found in the text", () => {
    const body = fc.integer({ min: 0, max: 50 }).map((took) => `level=info took=${took}`);
    const records = fc.array(
      fc.tuple(anyLogRecord, body).map(([record, text]): LogRecord => ({ ...record, body: text, attributes: {} })),
      { minLength: 1, maxLength: 30 },
    );
    fc.assert(
      fc.property(records, fc.array(fc.nat(30), { maxLength: 4 }), (all, at) => {
        const logs = [
          { id: "p", type: "parse" },
          { id: "n", type: "records", to: "log.lines" },
          { id: "s", type: "records", to: "courier.took", what: "sum", field: "took", unit: "s", attributes: [] },
          {
            id: "h",
            type: "records",
            to: "courier.times",
            what: "histogram",
            field: "took",
            unit: "s",
            bounds: [10, 20],
          },
          { id: "d", type: "drop" },
        ];
        const batch = metricsOf(
          { logs },
          cut(all, at).map((some) => ({ records: some })),
        );
        expect(total(batch, "count of log.lines by log.severity")).toEqual(counts(all, severityName));
        const tooks = all.map((record) => Number(/took=(\d+)/.exec(String(record.body))?.[1]));
        const inAll = Object.values(total(batch, "sum of courier.times"))[0];
        expect(inAll).toBeCloseTo(
          tooks.reduce((sum, one) => sum + one, 0),
          6,
        );
        const under = Object.values(total(batch, "share under 10 s of courier.times"))[0];
        expect(under).toBeCloseTo(tooks.filter((one) => one <= 10).length / all.length, 6);
      }),
      { numRuns: 60 },
    );
  });

  test("what is derived goes through the lane for metrics", () => {
    const spans = fc.sample(anySpan, 10);
    const batch = metricsOf(
      {
        traces: [{ id: "m", type: "spans", to: "raw", attributes: ["span.name"] }],
        metrics: [
          { id: "n", type: "metric", where: 'metric is "raw.count"', to: "call.count" },
          { id: "d", type: "drop", where: 'metric is not "call.count"' },
        ],
      },
      [{ spans }],
    );
    expect(total(batch, "count of call.count")).toEqual({ "": 10 });
    expect([...batch.series()].every(({ metric }) => metric.identity.name === "call.count")).toBe(true);
  });
});
