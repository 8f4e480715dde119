import { eachRecord, plainList, type RecordAdmission, Refused, textProblem, timeProblem } from "../otlp/admit";
import { attributesProblem } from "../otlp/limits";
import type { Plain } from "../otlp/messages";
import { attributesOf, instantOf } from "../otlp/values";
import { SPAN_KINDS, SPAN_STATUSES, type Span, type SpanEvent, type SpanLink } from "./model";

const MAX_NAME = 1024;
const MAX_STATE = 512;
/** Events and links of one span. */
const MAX_PARTS = 128;
const NAMES = { resources: "resourceSpans", scopes: "scopeSpans", records: "spans" };

/** Spans of a request, and what was refused. */
export interface ReadSpans {
  spans: Span[];
  refused: Refused;
}

function eventOf(event: Plain): SpanEvent {
  const { ms, ns } = instantOf(event.timeUnixNano);
  return { ms, ns, name: (event.name as string) ?? "", attributes: attributesOf(event.attributes) };
}

function linkOf(link: Plain): SpanLink {
  const { traceId = "", spanId = "", traceState = "" } = link as Record<string, string>;
  return { traceId, spanId, state: traceState, attributes: attributesOf(link.attributes) };
}

/** An id that is not all zeros (W3C Trace Context). */
function isId(text: string, digits: number): boolean {
  return text.length === digits && /[1-9a-f]/.test(text);
}

function linkProblem({ traceId, spanId, state }: SpanLink): string | null {
  if (traceId.length > 32 || spanId.length > 16) return "the ids of a link are longer than 16 and 8 bytes";
  return textProblem("the tracestate of a link", state, MAX_STATE);
}

/** Nanoseconds that a span may take. */
const MAX_TOOK = 100 * 366 * 86400e9;

function problemOf(span: Span, backwards: boolean, allowed: RecordAdmission): string | null {
  if (!isId(span.traceId, 32)) return "its trace id is not 16 bytes with one that is not zero";
  if (!isId(span.spanId, 16)) return "its span id is not 8 bytes with one that is not zero";
  if (span.ms === 0 && span.ns === 0) return "it has no start";
  if (backwards) return "it ends before it starts";
  if (span.took > MAX_TOOK) return "it takes longer than a hundred years";
  if (span.events.length > MAX_PARTS || span.links.length > MAX_PARTS)
    return `it has more than ${MAX_PARTS} events or links`;
  const inner = [...span.events, ...span.links];
  return (
    timeProblem(span.ms, allowed) ??
    textProblem("its name", span.name, MAX_NAME) ??
    textProblem("its tracestate", span.state, MAX_STATE) ??
    textProblem("its status", span.statusMessage, 4096) ??
    attributesProblem(span.attributes) ??
    inner.map(({ attributes }) => attributesProblem(attributes)).find((problem) => problem !== null) ??
    span.events.map(({ name }) => textProblem("the name of an event", name, MAX_NAME)).find((one) => one !== null) ??
    span.links.map(linkProblem).find((one) => one !== null) ??
    null
  );
}

/** The spans of an ExportTraceServiceRequest in the form of OTLP/JSON. */
export function readSpans(request: Plain, allowed: RecordAdmission): ReadSpans {
  const spans: Span[] = [];
  const refused = new Refused();
  eachRecord(request, NAMES, allowed.environment, (one, { resource, scope, problem }) => {
    const begin = instantOf(one.startTimeUnixNano);
    const end = instantOf(one.endTimeUnixNano);
    const took = (end.ms - begin.ms) * 1e6 + (end.ns - begin.ns);
    const ended = end.ms > 0 || end.ns > 0;
    const { code = 0, message = "" } = (one.status as Plain | undefined) ?? {};
    const text = one as Record<string, string>;
    const span: Span = {
      resource,
      scope,
      traceId: text.traceId ?? "",
      spanId: text.spanId ?? "",
      parentId: /[1-9a-f]/.test(text.parentSpanId ?? "") ? text.parentSpanId : "",
      state: text.traceState ?? "",
      flags: (one.flags as number) ?? 0,
      name: text.name ?? "",
      kind: SPAN_KINDS[one.kind as number] ?? "unspecified",
      ms: begin.ms,
      ns: begin.ns,
      took: ended ? Math.max(0, took) : 0,
      status: SPAN_STATUSES[code as number] ?? "unset",
      statusMessage: message as string,
      attributes: attributesOf(one.attributes),
      events: plainList(one.events).map(eventOf),
      links: plainList(one.links).map(linkOf),
      dropped: [one.droppedAttributesCount, one.droppedEventsCount, one.droppedLinksCount].map((count) =>
        Number(count ?? 0),
      ) as Span["dropped"],
    };
    const reason = problem ?? problemOf(span, ended && took < 0, allowed);
    if (reason === null) spans.push(span);
    else refused.add(`span ${span.name || "(no name)"}: ${reason}`);
  });
  return { spans, refused };
}
