import { z } from "zod";
import { type PipelineConfig, pipelineSchema } from "../pipeline/config";

/** The pipeline as the API gives and takes it. Times in Unix ms. */

export interface PipelineVersionEntry {
  id: number;
  at: number;
  who: string;
  note: string;
  config: PipelineConfig;
}

export interface PipelineAnswer {
  /** id 0: nothing was ever published. */
  live: PipelineVersionEntry;
  versions: PipelineVersionEntry[];
  /** Points, and spans of traces that are not decided on, that wait at steps now. */
  waiting: { step: string; points: number }[];
  exporters: ExporterState[];
  /** Secrets that are kept for exporters, by name. */
  secrets: { exporter: string; name: string }[];
}

/** How it goes with an exporter. Points, spans and records together; times in Unix ms. */
export interface ExporterState {
  exporter: string;
  /** Blocks, items and bytes that wait, and since when the oldest does. */
  waiting: number;
  items: number;
  bytes: number;
  oldestAt: number | null;
  sent: number;
  /** What the other side did not take, and what was left out because the queue was full. */
  refused: number;
  lost: number;
  sentAt: number | null;
  failure: string | null;
  failedAt: number | null;
  retryAt: number | null;
}

/** A draft that is to go live. */
export const publishing = z.object({
  config: pipelineSchema,
  who: z.string().trim().min(1, "say who publishes it").max(100),
  note: z.string().trim().min(1, "say in a few words what changes").max(500),
  /** The version that it was begun from. */
  based: z.number().int().min(0),
});

/** What a team pays, a month. */
export const priceSchema = z.object({
  /** For a series. */
  series: z.number().min(0).max(1e6),
  /** For a GB (10⁹ bytes) that is received. */
  gigabyte: z.number().min(0).max(1e6),
  /** What it is paid in, as people write it behind a number; may be nothing. */
  currency: z.string().trim().max(8),
});
export type Price = z.infer<typeof priceSchema>;
export const USUAL_PRICE: Price = { series: 0.02, gigabyte: 0.1, currency: "" };

/** Series now, of instances that report, and how many of the same kind there were before. */
export interface NowAndBefore {
  now: number;
  before: number;
}

/** How the series of a metric grew. Exact, from the registry. */
export interface Growth extends NowAndBefore {
  metric: string;
  /** Those that grew most first. */
  releases: ({ service: string; release: string } & NowAndBefore)[];
  /** Attributes with values that no series had before, the one with most of them first. */
  attributes: { name: string; values: number; examples: { value: string; series: number }[] }[];
}

export interface GrowthAnswer {
  /** What "before" is, Unix ms. */
  since: number;
  /** Those with most series first. */
  metrics: Growth[];
}

/** How far back a growth can be looked at, ms. */
export const GROWTH_SPANS = [3600_000, 86400_000, 7 * 86400_000] as const;
