import { z } from "zod";
import { judgedParts } from "./judged";
import { announcementEntry } from "./releases";

/** What the comparison of two releases is answered. Times in Unix ms, shares as parts of 1. */

const bound = z.number().nullable();
const told = z.object({ value: z.number(), low: bound, high: bound });
const change = z.object({
  ...judgedParts,
  needs: z.object({ calls: z.number(), time: z.number() }).nullable().meta({
    description:
      "Calls of the candidate that are missing at the present difference, and how long they take to come, ms.",
  }),
  bounds: z.array(z.number()).meta({ description: "Bounds of buckets with which it could be told." }),
});

const calls = {
  latency: z.array(z.object({ q: z.number(), candidate: told, baseline: told, change })),
  failures: z.object({ candidate: told, baseline: told, change }).nullable(),
};

const counted = z.object({ calls: z.number(), hits: z.number() });
const cause = z.object({
  where: z.array(z.object({ attribute: z.string(), value: z.string().nullable() })),
  within: z.number().meta({ description: "From its own calls having another share." }),
  mix: z.number().meta({ description: "From there being more or fewer of its calls." }),
  part: z.number().meta({ description: "Both together, in parts of 1 of all calls." }),
  low: z.number(),
  high: z.number(),
  candidate: counted,
  baseline: counted,
});
export type CauseAnswer = z.infer<typeof cause>;

const explanation = z.object({
  whole: z.number(),
  shares: z.object({ candidate: z.number(), baseline: z.number() }),
  causes: z.array(cause).meta({ description: "What it comes from, the most telling first." }),
  attributes: z.array(z.object({ attribute: z.string(), values: z.array(cause), mix: z.number() })),
});
export type ExplanationAnswer = z.infer<typeof explanation>;

export const sideAnswer = z.object({
  service: z.string(),
  environment: z.string(),
  release: z.string(),
  from: z.number(),
  to: z.number(),
  servedFrom: z.number().nullable().meta({ description: "When its latest stay began; null: it is not known." }),
  announced: announcementEntry.nullable(),
});
export type SideAnswer = z.infer<typeof sideAnswer>;

const gaps = z.array(z.number().nullable());
const course = z.object({ p95: gaps, rate: gaps, errors: gaps });

export const comparisonAnswer = z.object({
  candidate: sideAnswer,
  baseline: sideAnswer.nullable().meta({ description: "null: there is nothing to hold it against." }),
  askedAt: z.number(),
  metric: z.string().nullable(),
  unit: z.string(),
  failed: z.string(),
  hold: z.array(z.object({ attribute: z.string(), value: z.string().nullable() })).meta({
    description: "Only calls with these values are compared.",
  }),
  tolerances: z.object({ latency: z.number(), failures: z.number() }),
  way: z.enum(["side by side", "before and after"]).nullable(),
  pairing: z.string().meta({ description: "In words, which minutes are held against which." }),
  minute: z.number().meta({ description: "The length of what is drawn again, ms." }),
  found: z
    .object({
      minutes: z.number(),
      calls: z.object({ candidate: z.number(), baseline: z.number() }),
      rates: z.object({ candidate: z.number(), baseline: z.number() }),
      ...calls,
      throughput: told.nullable(),
      split: z
        .object({
          ...told.shape,
          meant: z.number().nullable(),
          verdict: z.enum(["as meant", "more than meant", "less than meant", "not enough yet"]).nullable(),
        })
        .nullable(),
    })
    .nullable()
    .meta({ description: "null: there is no minute in which both had calls." }),
  shape: z.object({
    axis: z.array(z.number()),
    candidate: z.array(z.number()),
    baseline: z.array(z.number()),
    distance: z
      .object({
        greatest: z.number().meta({ description: "The greatest difference of the shares at or below a value." }),
        at: z.number(),
        moved: z.number().meta({ description: "How far calls moved on average, in the metric's unit." }),
      })
      .nullable(),
  }),
  slower: z.number().nullable().meta({ description: "The bound above which calls are slow, in the metric's unit." }),
  slow: explanation.nullable(),
  failing: explanation.nullable(),
  by: z.string().nullable().meta({ description: "The attribute that is looked at." }),
  values: z
    .array(
      z.object({
        value: z.string().nullable(),
        calls: z.object({ candidate: z.number(), baseline: z.number() }),
        p95: z.object({ candidate: z.number().nullable(), baseline: z.number().nullable() }),
        errors: z.object({ candidate: z.number().nullable(), baseline: z.number().nullable() }),
      }),
    )
    .meta({ description: "The values of that attribute." }),
  alike: z
    .object({ attribute: z.string(), values: z.number(), ...calls })
    .nullable()
    .meta({ description: "Like for like: both sides with the baseline's mix of that attribute." }),
  differs: z
    .string()
    .nullable()
    .meta({ description: "The attribute whose changed mix changes a verdict, whatever is looked at." }),
  courses: z
    .object({
      every: z.number(),
      since: z.object({ candidate: z.number(), baseline: z.number() }),
      candidate: course,
      baseline: course,
    })
    .nullable()
    .meta({ description: "Both from the start of their stays." }),
  measures: z.array(
    z.object({
      name: z.string(),
      reading: z.string(),
      unit: z.string(),
      share: z.boolean().meta({ description: "Whether values are parts of a whole." }),
      good: z.enum(["more", "less", "none"]),
      candidate: z.number(),
      baseline: z.number(),
      change: told,
      relative: z.boolean(),
      verdict: z.enum(["worse", "better", "same", "different", "not enough yet"]),
    }),
  ),
});
export type ComparisonAnswer = z.infer<typeof comparisonAnswer>;
