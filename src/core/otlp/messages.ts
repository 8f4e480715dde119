/**
 * The messages of OTLP as data (opentelemetry-proto 1.x: common, resource, trace, logs, metrics and their collector
 * services): what reading, writing and checking each walk.
 */

/** Types of single values, as the proto files name them; `hex` are bytes that OTLP/JSON writes in hex. */
export type Scalar =
  | "string"
  | "bool"
  | "double"
  | "fixed64"
  | "sfixed64"
  | "int64"
  | "uint64"
  | "uint32"
  | "int32"
  | "sint32"
  | "fixed32"
  | "enum"
  | "bytes"
  | "hex";

export interface Field {
  number: number;
  /** As in OTLP/JSON. */
  name: string;
  type: Scalar | MessageName;
  repeated: boolean;
}

const MESSAGES = {
  AnyValue:
    "1 stringValue string, 2 boolValue bool, 3 intValue int64, 4 doubleValue double, 5 arrayValue ArrayValue, 6 kvlistValue KeyValueList, 7 bytesValue bytes",
  ArrayValue: "1 values AnyValue*",
  KeyValueList: "1 values KeyValue*",
  KeyValue: "1 key string, 2 value AnyValue",
  InstrumentationScope: "1 name string, 2 version string, 3 attributes KeyValue*, 4 droppedAttributesCount uint32",
  Resource: "1 attributes KeyValue*, 2 droppedAttributesCount uint32",

  ExportTraceServiceRequest: "1 resourceSpans ResourceSpans*",
  ResourceSpans: "1 resource Resource, 2 scopeSpans ScopeSpans*, 3 schemaUrl string",
  ScopeSpans: "1 scope InstrumentationScope, 2 spans Span*, 3 schemaUrl string",
  Span: "1 traceId hex, 2 spanId hex, 3 traceState string, 4 parentSpanId hex, 5 name string, 6 kind enum, 7 startTimeUnixNano fixed64, 8 endTimeUnixNano fixed64, 9 attributes KeyValue*, 10 droppedAttributesCount uint32, 11 events SpanEvent*, 12 droppedEventsCount uint32, 13 links SpanLink*, 14 droppedLinksCount uint32, 15 status SpanStatus, 16 flags fixed32",
  SpanEvent: "1 timeUnixNano fixed64, 2 name string, 3 attributes KeyValue*, 4 droppedAttributesCount uint32",
  SpanLink:
    "1 traceId hex, 2 spanId hex, 3 traceState string, 4 attributes KeyValue*, 5 droppedAttributesCount uint32, 6 flags fixed32",
  SpanStatus: "2 message string, 3 code enum",

  ExportLogsServiceRequest: "1 resourceLogs ResourceLogs*",
  ResourceLogs: "1 resource Resource, 2 scopeLogs ScopeLogs*, 3 schemaUrl string",
  ScopeLogs: "1 scope InstrumentationScope, 2 logRecords LogRecord*, 3 schemaUrl string",
  LogRecord:
    "1 timeUnixNano fixed64, 2 severityNumber enum, 3 severityText string, 5 body AnyValue, 6 attributes KeyValue*, 7 droppedAttributesCount uint32, 8 flags fixed32, 9 traceId hex, 10 spanId hex, 11 observedTimeUnixNano fixed64, 12 eventName string",

  ExportMetricsServiceRequest: "1 resourceMetrics ResourceMetrics*",
  ResourceMetrics: "1 resource Resource, 2 scopeMetrics ScopeMetrics*, 3 schemaUrl string",
  ScopeMetrics: "1 scope InstrumentationScope, 2 metrics Metric*, 3 schemaUrl string",
  Metric:
    "1 name string, 2 description string, 3 unit string, 5 gauge Gauge, 7 sum Sum, 9 histogram Histogram, 10 exponentialHistogram ExponentialHistogram, 11 summary Summary",
  Gauge: "1 dataPoints NumberDataPoint*",
  Sum: "1 dataPoints NumberDataPoint*, 2 aggregationTemporality enum, 3 isMonotonic bool",
  Histogram: "1 dataPoints HistogramDataPoint*, 2 aggregationTemporality enum",
  ExponentialHistogram: "1 dataPoints ExponentialHistogramDataPoint*, 2 aggregationTemporality enum",
  Summary: "1 dataPoints SummaryDataPoint*",
  NumberDataPoint:
    "7 attributes KeyValue*, 2 startTimeUnixNano fixed64, 3 timeUnixNano fixed64, 4 asDouble double, 6 asInt sfixed64, 5 exemplars Exemplar*, 8 flags uint32",
  HistogramDataPoint:
    "9 attributes KeyValue*, 2 startTimeUnixNano fixed64, 3 timeUnixNano fixed64, 4 count fixed64, 5 sum double, 6 bucketCounts fixed64*, 7 explicitBounds double*, 8 exemplars Exemplar*, 10 flags uint32, 11 min double, 12 max double",
  ExponentialHistogramDataPoint:
    "1 attributes KeyValue*, 2 startTimeUnixNano fixed64, 3 timeUnixNano fixed64, 4 count fixed64, 5 sum double, 6 scale sint32, 7 zeroCount fixed64, 8 positive Buckets, 9 negative Buckets, 10 flags uint32, 11 exemplars Exemplar*, 12 min double, 13 max double, 14 zeroThreshold double",
  Buckets: "1 offset sint32, 2 bucketCounts uint64*",
  SummaryDataPoint:
    "7 attributes KeyValue*, 2 startTimeUnixNano fixed64, 3 timeUnixNano fixed64, 4 count fixed64, 5 sum double, 6 quantileValues ValueAtQuantile*, 8 flags uint32",
  ValueAtQuantile: "1 quantile double, 2 value double",
  Exemplar:
    "7 filteredAttributes KeyValue*, 2 timeUnixNano fixed64, 3 asDouble double, 6 asInt sfixed64, 4 spanId hex, 5 traceId hex",

  /** Of any signal: they differ in the name that JSON has for what was refused. */
  ExportServiceResponse: "1 partialSuccess PartialSuccess",
  PartialSuccess: "1 rejected int64, 2 errorMessage string",
} as const;

export type MessageName = keyof typeof MESSAGES;

/** Names of enumerations' values, where OTLP/JSON may have them, by the prefix that they share. */
export const ENUM_NAMES: Readonly<Record<string, number>> = {
  AGGREGATION_TEMPORALITY_UNSPECIFIED: 0,
  AGGREGATION_TEMPORALITY_DELTA: 1,
  AGGREGATION_TEMPORALITY_CUMULATIVE: 2,
  SPAN_KIND_UNSPECIFIED: 0,
  SPAN_KIND_INTERNAL: 1,
  SPAN_KIND_SERVER: 2,
  SPAN_KIND_CLIENT: 3,
  SPAN_KIND_PRODUCER: 4,
  SPAN_KIND_CONSUMER: 5,
  STATUS_CODE_UNSET: 0,
  STATUS_CODE_OK: 1,
  STATUS_CODE_ERROR: 2,
  SEVERITY_NUMBER_UNSPECIFIED: 0,
  ...Object.fromEntries(
    ["TRACE", "DEBUG", "INFO", "WARN", "ERROR", "FATAL"].flatMap((name, i) =>
      [0, 1, 2, 3].map((k) => [`SEVERITY_NUMBER_${name}${k === 0 ? "" : k + 1}`, 1 + 4 * i + k]),
    ),
  ),
};

export interface Message {
  byName: ReadonlyMap<string, Field>;
  byNumber: ReadonlyMap<number, Field>;
}

function read(text: string): Message {
  const fields = text.split(", ").map((part): Field => {
    const [number, name, type] = part.split(" ");
    const repeated = type.endsWith("*");
    return { number: Number(number), name, type: (repeated ? type.slice(0, -1) : type) as Field["type"], repeated };
  });
  return {
    byName: new Map(fields.map((field) => [field.name, field])),
    byNumber: new Map(fields.map((field) => [field.number, field])),
  };
}

const READ = Object.fromEntries(Object.entries(MESSAGES).map(([name, text]) => [name, read(text)])) as Record<
  MessageName,
  Message
>;

export function messageOf(name: MessageName): Message {
  return READ[name];
}

export function isMessage(type: Field["type"]): type is MessageName {
  return Object.hasOwn(MESSAGES, type);
}

const WIRE_TYPES: Partial<Record<Field["type"], number>> = {
  double: 1,
  fixed64: 1,
  sfixed64: 1,
  fixed32: 5,
  string: 2,
  bytes: 2,
  hex: 2,
};

/** The wire type of single values (protobuf encoding guide, "Message Structure"). */
export function wireTypeOf(type: Field["type"]): number {
  return isMessage(type) ? 2 : (WIRE_TYPES[type] ?? 0);
}

/** A message as plain data, in the form of OTLP/JSON: 64-bit integers as text, ids in hex, bytes in base64. */
export type Plain = { [name: string]: PlainValue };
export type PlainValue = string | number | boolean | Plain | PlainValue[];

/** Messages inside each other, at most. */
export const MAX_DEPTH = 24;
