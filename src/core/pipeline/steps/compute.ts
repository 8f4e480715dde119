import { z } from "zod";
import { parseReading } from "../../reading/language/parse";
import { measuresOf, ReadingError } from "../../reading/language/tree";
import { type ComputeState, Computing, readMetrics } from "../compute";
import { metricName, seconds, unitText } from "../parts";
import { defineStep } from "./definition";
import { either, number, text } from "./sentence";

/** A reading that a figure is worked out with, window by window. */
const readingText = z
  .string()
  .min(1)
  .max(2000)
  .superRefine((reading, context) => {
    try {
      const measures = measuresOf(parseReading(reading).expression);
      const wrong = measures.find(({ over, every, shifted }) => over !== null || every !== null || shifted !== null);
      if (wrong)
        context.addIssue({
          code: "custom",
          message: "a figure is worked out per window: leave over, every and shifts out",
        });
      if (measures.length === 0) context.addIssue({ code: "custom", message: "a reading of some metric is expected" });
    } catch (error) {
      if (!(error instanceof ReadingError)) throw error;
      context.addIssue({ code: "custom", message: [error.message, error.hint].filter(Boolean).join("; ") });
    }
  });

function readsItself(step: { reading: string; to: string }): boolean {
  try {
    return readMetrics(step).has(step.to);
  } catch {
    // A reading that is not understood is told at its step.
    return false;
  }
}

export const compute = defineStep({
  type: "compute",
  lanes: ["metrics"],
  settings: {
    /** A reading over metrics that match; each group of it becomes a series. */
    reading: readingText,
    to: metricName,
    /** The unit that it is said in; "" for the one that the formula gives. */
    unit: z.union([z.literal(""), unitText]).default(""),
    /** Significant digits; null keeps all. */
    digits: z.number().int().min(1).max(15).nullable().default(null),
    /** Whether what it is worked out from goes on as well. */
    originals: z.boolean().default(true),
    every: seconds.default(10),
  },
  blank: { reading: "count of errors / count of requests", to: "error.share" },
  name: "compute a figure",
  does: "a gauge from a reading of each window",
  sentence: () => [
    "work out ",
    text("reading", "reading"),
    " every ",
    number("every", "window in seconds"),
    " s, called ",
    text("to", "name of what comes out"),
    ", in ",
    text("unit", "unit of what comes out", "its own unit"),
    ", to ",
    number("digits", "significant digits", "all"),
    " digits; what it is worked out from ",
    either("originals", "the originals", "goes on as well", "goes no further"),
  ],
  documented: "a gauge from a reading of each window, with its unit, rounded",
  reads: readMetrics,
  makes: ({ to }) => to,
  originals: ({ originals }) => originals,
  doubles: (step) => step.originals && readsItself(step),
  windowed: "always",
  waits: (step, since, saved, closed) => new Computing(step, since, saved as ComputeState | undefined, closed),
});
