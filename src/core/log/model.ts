import type { Attributes, AttributeValue, Scope } from "../metric/model";

/** A log record (OpenTelemetry logs data model). Times are Unix milliseconds with the nanoseconds inside them. */
export interface LogRecord {
  resource: Attributes;
  scope: Scope;
  ms: number;
  ns: number;
  /** When it was observed, by whoever collected it. */
  observedMs: number;
  observedNs: number;
  /** 1 to 24; 0 where it is not known. */
  severity: number;
  severityText: string;
  body: AttributeValue;
  attributes: Attributes;
  /** "" where it belongs to no trace. */
  traceId: string;
  spanId: string;
  flags: number;
  eventName: string;
  droppedAttributes: number;
}

const SEVERITIES = ["TRACE", "DEBUG", "INFO", "WARN", "ERROR", "FATAL"];

/** The short name of a severity (logs data model, "Displaying Severity"), or what the source called it. */
export function severityName({ severity, severityText }: Pick<LogRecord, "severity" | "severityText">): string {
  return SEVERITIES[Math.floor((severity - 1) / 4)] ?? severityText;
}
