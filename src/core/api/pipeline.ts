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
  /** Blocks and points that wait at steps now, by step. */
  waiting: { step: string; points: number }[];
}

/** A draft that is to go live. */
export const publishing = z.object({
  config: pipelineSchema,
  who: z.string().trim().min(1, "a name is expected").max(100),
  note: z.string().trim().min(1, "say in a few words what changes").max(500),
  /** The version that it was begun from. */
  based: z.number().int().min(0),
});
