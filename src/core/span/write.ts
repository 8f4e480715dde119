import type { Plain } from "../otlp/messages";
import { bySender, filled } from "../otlp/senders";
import { keyValues, nanosText } from "../otlp/values";
import { SPAN_KINDS, SPAN_STATUSES, type Span } from "./model";

function end({ ms, ns, took }: Span): string {
  const nanos = ns + took;
  return nanosText(ms + Math.floor(nanos / 1e6), Math.floor(nanos % 1e6));
}

function spanPlain(span: Span): Plain {
  const status = filled({ code: SPAN_STATUSES.indexOf(span.status), message: span.statusMessage });
  return {
    traceId: span.traceId,
    spanId: span.spanId,
    startTimeUnixNano: nanosText(span.ms, span.ns),
    endTimeUnixNano: end(span),
    ...filled({
      traceState: span.state,
      parentSpanId: span.parentId,
      flags: span.flags,
      name: span.name,
      kind: SPAN_KINDS.indexOf(span.kind),
      attributes: keyValues(span.attributes),
      droppedAttributesCount: span.dropped[0],
      events: span.events.map(({ ms, ns, name, attributes }) => ({
        timeUnixNano: nanosText(ms, ns),
        name,
        attributes: keyValues(attributes),
      })),
      droppedEventsCount: span.dropped[1],
      links: span.links.map(({ traceId, spanId, state, attributes }) => ({
        traceId,
        spanId,
        ...filled({ traceState: state }),
        attributes: keyValues(attributes),
      })),
      droppedLinksCount: span.dropped[2],
    }),
    ...(Object.keys(status).length > 0 ? { status } : {}),
  };
}

/** Spans as an ExportTraceServiceRequest in the form of OTLP/JSON. */
export function spansRequest(spans: readonly Span[]): Plain {
  return { resourceSpans: bySender(spans, { scopes: "scopeSpans", records: "spans" }, spanPlain) };
}
