/** The nouns of the text format: what stands in an exposition, before it becomes points. */

/** Types of metric families (OpenMetrics 1.0, "Metric Types"); `unknown` is also the older format's `untyped`. */
export const FAMILY_TYPES = [
  "counter",
  "gauge",
  "histogram",
  "gaugehistogram",
  "summary",
  "info",
  "stateset",
  "unknown",
] as const;
export type FamilyType = (typeof FAMILY_TYPES)[number];

/** Which of the two text formats a text is written in. */
export type Dialect = "openmetrics" | "plain";

/** Names and values of labels, one after the other: [name, value, name, value, …]. */
export type Labels = readonly string[];

export interface TextExemplar {
  labels: Labels;
  value: number;
  /** Seconds since 1970; NaN where none was given. */
  time: number;
}

/** One line with a value. */
export interface Sample {
  /** With its suffix: `http_requests_total`. */
  name: string;
  /** The labels as they were written, between the braces. */
  written: string;
  labels: Labels;
  value: number;
  /** Unix ms; NaN where none was given. */
  timeMs: number;
  exemplar: TextExemplar | null;
  line: number;
}

/** Samples that belong together under one name. */
export interface Family {
  /** Without the suffix `_total`, in both formats. */
  name: string;
  type: FamilyType;
  /** In the words of the text, such as `seconds`; "" where none was given. */
  unit: string;
  help: string;
  samples: Sample[];
  line: number;
}

/** A line that is not understood: number, beginning of its text, and what is wrong. */
export interface LineProblem {
  line: number;
  text: string;
  message: string;
}

/** Unix ms of a time in seconds, to the microsecond: no double of today says more, and noise below would move a millisecond. */
export function msOfSeconds(seconds: number): number {
  return Math.round(seconds * 1e6) / 1000;
}
