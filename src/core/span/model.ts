import type { Attributes, Scope } from "../metric/model";

/** A span (OpenTelemetry trace specification, "Span"). Times are Unix milliseconds with the nanoseconds inside them. */
export interface Span {
  resource: Attributes;
  scope: Scope;
  /** 32 and 16 hex digits. */
  traceId: string;
  spanId: string;
  /** "" for the root of a trace. */
  parentId: string;
  /** W3C tracestate. */
  state: string;
  flags: number;
  name: string;
  kind: SpanKind;
  ms: number;
  ns: number;
  /** How long it took, ns. */
  took: number;
  status: SpanStatus;
  statusMessage: string;
  attributes: Attributes;
  events: SpanEvent[];
  links: SpanLink[];
  /** Attributes, events and links that the sender left out. */
  dropped: [attributes: number, events: number, links: number];
}

export interface SpanEvent {
  ms: number;
  ns: number;
  name: string;
  attributes: Attributes;
}

export interface SpanLink {
  traceId: string;
  spanId: string;
  state: string;
  attributes: Attributes;
}

/** By the numbers of the protocol. */
export const SPAN_KINDS = ["unspecified", "internal", "server", "client", "producer", "consumer"] as const;
export type SpanKind = (typeof SPAN_KINDS)[number];
export const SPAN_STATUSES = ["unset", "ok", "error"] as const;
export type SpanStatus = (typeof SPAN_STATUSES)[number];
