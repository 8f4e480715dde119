import type { LogRecord } from "../../log/model";
import type { Span } from "../../span/model";

/** What of one signal goes to an exporter; metrics go as batches of points. */
export type OutgoingOf<Points> =
  | { signal: "metrics"; batch: Points }
  | { signal: "traces"; spans: readonly Span[] }
  | { signal: "logs"; records: readonly LogRecord[] };

/** How many points, spans or records there are. */
export function itemsOf(content: OutgoingOf<{ points: number }>): number {
  if (content.signal === "metrics") return content.batch.points;
  return content.signal === "traces" ? content.spans.length : content.records.length;
}

/** What has to be kept together with a batch of points, or not at all. */
export interface SideOutputsOf<Points> {
  /** Of the pipeline. */
  version: number;
  /** Points that wait at steps. */
  waiting: { step: string; batch: Points }[];
  /** Spans that wait to be decided on with their traces. */
  undecided: { step: string; spans: readonly Span[] }[];
  /** What is stored besides points. */
  spans: readonly Span[];
  records: readonly LogRecord[];
  /** What goes to exporters with a queue, by their ids. */
  exports: { exporter: string; content: OutgoingOf<Points> }[];
}

export function noSideOutputs<Points>(version: number): SideOutputsOf<Points> {
  return { version, waiting: [], undecided: [], spans: [], records: [], exports: [] };
}
