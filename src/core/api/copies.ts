import { z } from "zod";
import type { ReadingResult } from "../reading/result";
import { type Problem, readingResult, sideBySide } from "./readings";

/** The same reading from our store and from another backend's copy. Times in Unix ms. */

export const copyQuestion = z.object({
  exporter: z.string().max(40),
  text: z.string().min(1).max(4000),
  from: z.number(),
  to: z.number(),
  every: z.number().positive(),
  zone: z.string().max(60),
});
export type CopyQuestion = z.infer<typeof copyQuestion>;

/** What the intake says of the other backend's copy. */
export type CopyAnswer = { ok: true; value: ReadingResult } | { ok: false; problem: Problem };

export const compareAnswer = z.object({ store: readingResult, copy: readingResult, pairs: z.array(sideBySide) });
export type CompareAnswer = z.infer<typeof compareAnswer>;
