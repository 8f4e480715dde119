import { SeverityNumber } from "@opentelemetry/api-logs";
import { JsonTraceSerializer, ProtobufLogsSerializer, ProtobufTraceSerializer } from "@opentelemetry/otlp-transformer";
import { resourceFromAttributes } from "@opentelemetry/resources";
import { InMemoryLogRecordExporter, LoggerProvider, SimpleLogRecordProcessor } from "@opentelemetry/sdk-logs";
import { BasicTracerProvider, InMemorySpanExporter, SimpleSpanProcessor } from "@opentelemetry/sdk-trace-node";
import fc from "fast-check";
import type { LogRecord } from "../log/model";
import { readLogs } from "../log/read";
import { logsRequest } from "../log/write";
import { anyLogRecord, anySpan } from "../pipeline/arbitrary";
import type { Span } from "../span/model";
import { readSpans } from "../span/read";
import { spansRequest } from "../span/write";
import { ADMIT_ALL_RECORDS } from "./admit";
import { messageFromJson } from "./checkJson";
import { decodeMessage } from "./decode";
import { encodeMessage } from "./encode";
import { JsonError } from "./jsonError";
import { WireError } from "./wire";

const byId = (a: Span, b: Span) => (a.traceId + a.spanId < b.traceId + b.spanId ? -1 : 1);
const textOf = ({ resource, scope, ms, ns, observedMs, observedNs, ...rest }: LogRecord) =>
  JSON.stringify([ms, ns, observedMs, observedNs, Object.entries(rest).sort(), resource, scope]);
const byText = (a: LogRecord, b: LogRecord) => (textOf(a) < textOf(b) ? -1 : 1);

describe("spans and log records go out and come back the same", () => {
  test("spans, as protobuf and as JSON", () => {
    fc.assert(
      fc.property(fc.uniqueArray(anySpan, { maxLength: 8, selector: ({ spanId }) => spanId }), (spans) => {
        const request = spansRequest(spans);
        const bytes = decodeMessage("ExportTraceServiceRequest", encodeMessage("ExportTraceServiceRequest", request));
        const text = messageFromJson("ExportTraceServiceRequest", JSON.stringify(request));
        for (const plain of [bytes, text]) {
          const { spans: read, refused } = readSpans(plain, ADMIT_ALL_RECORDS);
          expect(refused.count).toBe(0);
          expect(read.sort(byId)).toEqual([...spans].sort(byId));
        }
      }),
    );
  });

  test("log records, as protobuf and as JSON", () => {
    fc.assert(
      fc.property(fc.array(anyLogRecord, { maxLength: 8 }), (records) => {
        const request = logsRequest(records);
        const bytes = decodeMessage("ExportLogsServiceRequest", encodeMessage("ExportLogsServiceRequest", request));
        const text = messageFromJson("ExportLogsServiceRequest", JSON.stringify(request));
        for (const plain of [bytes, text]) {
          const { records: read, refused } = readLogs(plain, ADMIT_ALL_RECORDS);
          expect(refused.count).toBe(0);
          expect(read.sort(byText)).toEqual([...records].sort(byText));
        }
      }),
    );
  });
});

test("what the SDK writes is read as it was meant", () => {
  const exporter = new InMemorySpanExporter();
  const provider = new BasicTracerProvider({
    resource: resourceFromAttributes({ "service.name": "loans", "service.version": "5.3.0" }),
    spanProcessors: [new SimpleSpanProcessor(exporter)],
  });
  const tracer = provider.getTracer("fern-anvil", "2");
  const span = tracer.startSpan("POST /loans", { kind: 1, startTime: [1_764_000_000, 123_456_789] });
  span.setAttributes({ depot: "Brindle", count: 3, share: 0.5, list: ["a", "b"], paid: true });
  span.addEvent("retried", { attempt: 2 }, [1_764_000_000, 200_000_001]);
  span.setStatus({ code: 2, message: "no tool left" });
  span.end([1_764_000_001, 23_456_790]);
  const [finished] = exporter.getFinishedSpans();
  const { traceId, spanId } = finished.spanContext();
  const wire = decodeMessage("ExportTraceServiceRequest", ProtobufTraceSerializer.serializeRequest([finished])!);
  const text = new TextDecoder().decode(JsonTraceSerializer.serializeRequest([finished])!);
  for (const plain of [wire, messageFromJson("ExportTraceServiceRequest", text)]) {
    const { spans } = readSpans(plain, ADMIT_ALL_RECORDS);
    expect(spans).toHaveLength(1);
    expect(spans[0]).toMatchObject({
      traceId,
      spanId,
      parentId: "",
      name: "POST /loans",
      kind: "server",
      ms: 1_764_000_000_123,
      ns: 456_789,
      took: 900_000_001,
      status: "error",
      statusMessage: "no tool left",
      scope: { name: "fern-anvil", version: "2" },
      attributes: { depot: "Brindle", count: 3, share: 0.5, list: ["a", "b"], paid: true },
      events: [{ ms: 1_764_000_000_200, ns: 1, name: "retried", attributes: { attempt: 2 } }],
    });
    expect(spans[0].resource["service.version"]).toBe("5.3.0");
  }
});

test("log records of the SDK are read as they were meant", () => {
  const exporter = new InMemoryLogRecordExporter();
  const provider = new LoggerProvider({
    resource: resourceFromAttributes({ "service.name": "courier-link" }),
    processors: [new SimpleLogRecordProcessor({ exporter })],
  });
  provider.getLogger("link").emit({
    severityNumber: SeverityNumber.ERROR,
    severityText: "error",
    body: 'level=error msg="no answer" took=14.2',
    timestamp: [1_764_000_000, 5],
    attributes: { attempt: 1 },
  });
  const bytes = ProtobufLogsSerializer.serializeRequest(exporter.getFinishedLogRecords())!;
  const { records } = readLogs(decodeMessage("ExportLogsServiceRequest", bytes), ADMIT_ALL_RECORDS);
  expect(records[0]).toMatchObject({
    ms: 1_764_000_000_000,
    ns: 5,
    severity: 17,
    severityText: "error",
    body: 'level=error msg="no answer" took=14.2',
    attributes: { attempt: 1 },
  });
});

describe("what is no request is refused with a reason", () => {
  test("any bytes give records or a WireError", () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 200 }), (bytes) => {
        try {
          readSpans(decodeMessage("ExportTraceServiceRequest", bytes), ADMIT_ALL_RECORDS);
          readLogs(decodeMessage("ExportLogsServiceRequest", bytes), ADMIT_ALL_RECORDS);
        } catch (error) {
          expect(error).toBeInstanceOf(WireError);
        }
      }),
      { numRuns: 300 },
    );
  });

  test("a request that was cut or changed gives records or a WireError", () => {
    fc.assert(
      fc.property(fc.array(anySpan, { minLength: 1, maxLength: 3 }), fc.nat(), fc.nat(255), (spans, place, byte) => {
        const bytes = encodeMessage("ExportTraceServiceRequest", spansRequest(spans));
        const changed = bytes.slice(0, (place % bytes.length) + 1);
        changed[changed.length - 1] = byte;
        try {
          readSpans(decodeMessage("ExportTraceServiceRequest", changed), ADMIT_ALL_RECORDS);
        } catch (error) {
          expect(error).toBeInstanceOf(WireError);
        }
      }),
    );
  });

  test.each([
    ["{", "not JSON"],
    ['{"resourceSpans": 3}', "resourceSpans: a list"],
    ['{"resourceSpans":[{"scopeSpans":[{"spans":[{"name":5}]}]}]}', "resourceSpans.0.scopeSpans.0.spans.0.name: text"],
    [
      '{"resourceSpans":[{"scopeSpans":[{"spans":[{"traceId":"xyz"}]}]}]}',
      "resourceSpans.0.scopeSpans.0.spans.0.traceId: hex",
    ],
  ])("%s: %s", (text, message) => {
    expect(() => messageFromJson("ExportTraceServiceRequest", text)).toThrow(JsonError);
    expect(() => messageFromJson("ExportTraceServiceRequest", text)).toThrow(message);
  });

  test("spans and records that cannot be kept", () => {
    const span = (fields: object) => ({
      resourceSpans: [
        {
          scopeSpans: [
            {
              spans: [
                {
                  traceId: "a".repeat(32),
                  spanId: "b".repeat(16),
                  name: "x",
                  startTimeUnixNano: "1764000000000000000",
                  ...fields,
                },
              ],
            },
          ],
        },
      ],
    });
    const reason = (fields: object, allowed = ADMIT_ALL_RECORDS) => {
      const plain = messageFromJson("ExportTraceServiceRequest", JSON.stringify(span(fields)));
      return readSpans(plain, allowed).refused.message();
    };
    expect(reason({})).toBe("");
    expect(reason({ traceId: "0".repeat(32) })).toContain("trace id");
    expect(reason({ spanId: "" })).toContain("span id");
    expect(reason({ startTimeUnixNano: "0" })).toContain("no start");
    expect(reason({ endTimeUnixNano: "1763999999999999999" })).toContain("ends before it starts");
    expect(reason({ name: "x".repeat(2000) })).toContain("2000 characters");
    expect(reason({}, { ...ADMIT_ALL_RECORDS, from: 1_764_000_000_001 })).toContain("before what is still kept");
    expect(reason({}, { ...ADMIT_ALL_RECORDS, to: 1_763_999_999_999 })).toContain("in the future");
    expect(reason({ attributes: [{ key: "", value: {} }] })).toContain("no name");
  });
});
