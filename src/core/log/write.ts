import type { Plain } from "../otlp/messages";
import { bySender, filled } from "../otlp/senders";
import { anyValue, keyValues, nanosText } from "../otlp/values";
import type { LogRecord } from "./model";

function recordPlain(record: LogRecord): Plain {
  const observed = record.observedMs > 0 || record.observedNs > 0;
  return {
    timeUnixNano: nanosText(record.ms, record.ns),
    ...(observed ? { observedTimeUnixNano: nanosText(record.observedMs, record.observedNs) } : {}),
    body: anyValue(record.body),
    ...filled({
      severityNumber: record.severity,
      severityText: record.severityText,
      attributes: keyValues(record.attributes),
      droppedAttributesCount: record.droppedAttributes,
      traceId: record.traceId,
      spanId: record.spanId,
      flags: record.flags,
      eventName: record.eventName,
    }),
  };
}

/** Log records as an ExportLogsServiceRequest in the form of OTLP/JSON. */
export function logsRequest(records: readonly LogRecord[]): Plain {
  return { resourceLogs: bySender(records, { scopes: "scopeLogs", records: "logRecords" }, recordPlain) };
}
