import type { LogRecord } from "../log/model";
import { severityName } from "../log/model";
import { labelOf } from "../metric/labels";
import type { Attributes, AttributeValue, SeriesIdentity } from "../metric/model";
import type { LookUp } from "../reading/language/conditions";
import type { Span } from "../span/model";

/** Records, spans or log records, as steps see them: who sent them, and attributes that include what is special to each. */

export type TelemetryRecord = Span | LogRecord;

/** A record on its way through a lane. */
export interface Passing<T extends TelemetryRecord> {
  record: T;
  /** Its resource, scope and attributes now. */
  now: SeriesIdentity;
}

export function isSpan(record: TelemetryRecord): record is Span {
  return "took" in record;
}

/** What stands among the attributes as if it were one; only a span's name and a record's body can be changed. */
function special(record: TelemetryRecord): Attributes {
  if (isSpan(record))
    return {
      "span.name": record.name,
      "span.kind": record.kind,
      "span.status": record.status,
      "span.duration": record.took / 1e9,
      "span.root": record.parentId === "",
    };
  return {
    "log.body": record.body,
    "log.severity": severityName(record),
    "log.severity.number": record.severity,
    ...(record.eventName === "" ? {} : { "log.event": record.eventName }),
  };
}

export const SPECIAL_OF_SPANS = ["span.name", "span.kind", "span.status", "span.duration", "span.root"];
export const SPECIAL_OF_LOGS = ["log.body", "log.severity", "log.severity.number", "log.event"];
/** What stands among the attributes of a record on its way and is not sent as one. */
export const SPECIAL: ReadonlySet<string> = new Set([...SPECIAL_OF_SPANS, ...SPECIAL_OF_LOGS]);

export function passing<T extends TelemetryRecord>(record: T): Passing<T> {
  const { resource, scope, attributes } = record;
  return { record, now: { resource, scope, attributes: { ...attributes, ...special(record) } } };
}

/** What conditions look into: a record's own attributes before those of its resource. */
export function lookInto({ now }: Passing<TelemetryRecord>): LookUp {
  return (name) => labelOf(now, name);
}

/** When a record happened: the end of a span. Unix ms. */
export function momentOf(record: TelemetryRecord): number {
  return isSpan(record) ? record.ms + (record.ns + record.took) / 1e6 : record.ms + record.ns / 1e6;
}

function textOf(value: AttributeValue | undefined): string {
  return value === undefined ? "" : typeof value === "string" ? value : JSON.stringify(value);
}

/** The record with all that steps changed. */
export function settled<T extends TelemetryRecord>({ record, now }: Passing<T>): T {
  const { resource, scope } = now;
  const attributes: Attributes = {};
  for (const [name, value] of Object.entries(now.attributes)) if (!SPECIAL.has(name)) attributes[name] = value;
  return isSpan(record)
    ? { ...record, resource, scope, attributes, name: textOf(now.attributes["span.name"]) }
    : { ...record, resource, scope, attributes, body: now.attributes["log.body"] ?? "" };
}
