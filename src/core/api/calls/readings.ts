import { z } from "zod";
import { parseReading } from "../../reading/language/parse";
import { ReadingError } from "../../reading/language/tree";
import { length, metricName, moment, orderly, window, zone } from "../asked";
import { call, done, plain } from "../call";
import { readingOutcome, readingResult } from "../readings";

/** Readings, and points as they arrived. */

const text = z.string().max(4000).meta({ description: "A reading, as docs/readings.md describes them." });
const picks = z
  .record(z.string(), z.array(z.string()))
  .default({})
  .meta({ description: "Values of picks by name; in an address pick.NAME=, as often as there are values." });
const EXAMPLE = { from: 1764000000000, to: 1764003600000 };

export const answerReading = call({
  method: "GET",
  path: "/api/reading",
  does: "Answers a reading over the window (from, to]. Of a window that is over, the answer has an ETag: asked with it in If-None-Match, what is still the same comes as 304 without being read or computed.",
  query: z.object({ text, ...window, every: length.optional(), zone, picks }).superRefine(orderly),
  answer: readingResult,
  example: { query: { text: "rate of http.server.request.duration by release", ...EXAMPLE } },
});

const MAX_TOGETHER = 60;

const one = z.object({ text, every: length.nullish() });

const together = <T extends z.ZodType>(each: T) =>
  z
    .object({ readings: z.array(each).min(1).max(MAX_TOGETHER), from: moment, to: moment, zone, picks })
    .superRefine(orderly);

export const answerReadings = call({
  method: "POST",
  path: "/api/readings",
  does: "Answers several readings over one window, which share what they fetch and decode. Each answers for itself.",
  changes: false,
  body: together(one),
  answer: z.array(readingOutcome),
  example: { body: { readings: [{ text: "count of http.server.request.duration" }], ...EXAMPLE } },
});

export const streamReadings = call({
  method: "POST",
  path: "/api/readings/lines",
  does: "Answers several readings over one window, each as soon as it is there: a line of JSON with its place among those asked, what the call before this one gives for it, and a version, which is null while the answer may still change. Who sends that version along gets null for the value where it is still the same.",
  changes: false,
  body: together(
    one.extend({
      known: z.string().max(100).nullish().meta({ description: "The version of the answer that the asker holds." }),
    }),
  ),
  answer: plain("application/x-ndjson"),
  example: { body: { readings: [{ text: "count of http.server.request.duration" }], ...EXAMPLE } },
});

const listed = <T extends z.ZodType>(one: z.ZodArray<T>) =>
  z.preprocess((given) => (given === undefined || Array.isArray(given) ? given : [given]), one);

export const exportPoints = call({
  method: "GET",
  path: "/api/export",
  does: "Writes out the points of metrics as they arrived, in (from, to], as lines of OTLP/JSON or as OpenMetrics text.",
  query: z
    .object({
      format: z.enum(["otlp", "openmetrics"], "the formats are otlp and openmetrics").default("otlp"),
      metric: listed(z.array(metricName, "a metric is expected: metric=…").min(1).max(100)),
      ...window,
      where: listed(
        z
          .array(
            z.string().transform((pair, context) => {
              const at = pair.indexOf("=");
              if (at > 0) return { name: pair.slice(0, at), value: pair.slice(at + 1) };
              context.addIssue({ code: "custom", message: "an attribute is written as name=value" });
              return z.NEVER;
            }),
          )
          .max(20)
          .default([]) as unknown as z.ZodArray<z.ZodType<{ name: string; value: string }, string>>,
      ),
    })
    .superRefine(orderly),
  answer: plain("application/x-ndjson"),
  example: { query: { metric: "http.server.request.duration", ...EXAMPLE, where: "service.name=loans" } },
});

/** A text that is a reading, short enough to be found by it. */
const understood = z
  .string()
  .min(1)
  .max(600)
  .superRefine((reading, context) => {
    try {
      parseReading(reading);
    } catch (error) {
      if (!(error instanceof ReadingError)) throw error;
      context.addIssue({ code: "custom", message: error.message });
    }
  });

export const getLately = call({
  method: "GET",
  path: "/api/readings/lately",
  does: "Lists readings that people looked at lately, the latest first.",
  answer: z.object({ readings: z.array(z.object({ reading: z.string(), at: z.number() })) }),
});

export const noteLately = call({
  method: "POST",
  path: "/api/readings/lately",
  does: "Notes that somebody looked at a reading.",
  right: "see",
  body: z.object({ reading: understood }),
  answer: done,
  example: { body: { reading: "rate of http.server.request.duration by release" } },
});
