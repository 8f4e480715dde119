import { MAX_TIME } from "../metric/pointLimits";
import { eachRecord, type RecordAdmission, Refused, textProblem, timeProblem } from "../otlp/admit";
import { attributesProblem, isStorableValue } from "../otlp/limits";
import type { Plain } from "../otlp/messages";
import { attributesOf, instantOf, plainValue } from "../otlp/values";
import type { LogRecord } from "./model";

/** Characters of one body. */
const MAX_BODY = 64 * 1024;
const NAMES = { resources: "resourceLogs", scopes: "scopeLogs", records: "logRecords" };

/** Of the column that holds it. */
const MAX_INT = 2 ** 31 - 1;

/** Log records of a request, and what was refused. */
export interface ReadLogs {
  records: LogRecord[];
  refused: Refused;
}

function problemOf(record: LogRecord, allowed: RecordAdmission): string | null {
  const { body, traceId, spanId } = record;
  if (record.ms === 0 && record.ns === 0) return "it has neither a time nor one when it was observed";
  if (traceId !== "" && traceId.length !== 32) return "its trace id is not 16 bytes";
  if (spanId !== "" && spanId.length !== 16) return "its span id is not 8 bytes";
  return (
    timeProblem(record.ms, allowed) ??
    textProblem("its body", typeof body === "string" ? body : JSON.stringify(body), MAX_BODY) ??
    (isStorableValue(body) ? null : "its body has characters that are no text (NUL or a broken pair)") ??
    textProblem("its severity", record.severityText, 64) ??
    textProblem("the name of its event", record.eventName, 256) ??
    attributesProblem(record.attributes)
  );
}

/** The records of an ExportLogsServiceRequest in the form of OTLP/JSON. A record without a time has that of when it was observed. */
export function readLogs(request: Plain, allowed: RecordAdmission): ReadLogs {
  const records: LogRecord[] = [];
  const refused = new Refused();
  eachRecord(request, NAMES, allowed.environment, (one, { resource, scope, problem }) => {
    const observed = instantOf(one.observedTimeUnixNano);
    const said = instantOf(one.timeUnixNano);
    const { ms, ns } = said.ms === 0 && said.ns === 0 ? observed : said;
    const text = one as Record<string, string>;
    const record: LogRecord = {
      resource,
      scope,
      ms,
      ns,
      observedMs: Math.min(observed.ms, MAX_TIME),
      observedNs: observed.ns,
      severity: Number(one.severityNumber ?? 0),
      severityText: text.severityText ?? "",
      body: plainValue(one.body as Plain | undefined),
      attributes: attributesOf(one.attributes),
      traceId: /[1-9a-f]/.test(text.traceId ?? "") ? text.traceId : "",
      spanId: /[1-9a-f]/.test(text.spanId ?? "") ? text.spanId : "",
      flags: Number(one.flags ?? 0),
      eventName: text.eventName ?? "",
      droppedAttributes: Math.min(Number(one.droppedAttributesCount ?? 0), MAX_INT),
    };
    const reason = problem ?? problemOf(record, allowed);
    if (reason === null) records.push(record);
    else refused.add(`log record: ${reason}`);
  });
  return { records, refused };
}
