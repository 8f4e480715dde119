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
  who: z.string().trim().min(1, "a name is expected").max(100),
  note: z.string().trim().min(1, "say in a few words what changes").max(500),
  /** The version that it was begun from. */
  based: z.number().int().min(0),
});
