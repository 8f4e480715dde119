import { z } from "zod";
import { MAX_NUMBERED } from "../metric/pointLimits";
import { type PipelineConfig, pipelineSchema } from "../pipeline/config";
import { DAY, HOUR } from "../window/lengths";

/** The pipeline as the API gives and takes it. Times in Unix ms. */

const config = pipelineSchema as unknown as z.ZodType<PipelineConfig, PipelineConfig>;

export const pipelineVersion = z.object({
  id: z.number(),
  at: z.number(),
  who: z.string(),
  note: z.string(),
  config,
});
export type PipelineVersionEntry = z.infer<typeof pipelineVersion>;

const exporterState = z.object({
  exporter: z.string(),
  waiting: z.number().meta({ description: "Blocks that wait." }),
  items: z.number(),
  bytes: z.number(),
  oldestAt: z.number().nullable().meta({ description: "Since when the oldest waits." }),
  sent: z.number(),
  refused: z.number().meta({ description: "What the other side did not take." }),
  lost: z.number().meta({ description: "What was left out because the queue was full." }),
  sentAt: z.number().nullable(),
  failure: z.string().nullable(),
  failedAt: z.number().nullable(),
  retryAt: z.number().nullable(),
});
/** How it goes with an exporter. Points, spans and records together; times in Unix ms. */
export type ExporterState = z.infer<typeof exporterState>;

export const pipelineAnswer = z.object({
  live: pipelineVersion.meta({ description: "id 0: nothing was ever published." }),
  versions: z.array(pipelineVersion),
  waiting: z
    .array(z.object({ step: z.string(), points: z.number() }))
    .meta({ description: "Points, and spans of traces that are not decided on, that wait at steps now." }),
  exporters: z.array(exporterState),
  secrets: z
    .array(z.object({ exporter: z.string(), name: z.string(), origin: z.string() }))
    .meta({ description: "Secrets that are kept for exporters, by name, with the origin that each is sent to." }),
});
export type PipelineAnswer = z.infer<typeof pipelineAnswer>;

/** A draft that is to go live. */
export const publishing = z.object({
  config: pipelineSchema,
  note: z.string().trim().min(1, "say in a few words what changes").max(500),
  /** The version that it was begun from. */
  based: z.number().int().min(0).max(MAX_NUMBERED),
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
export const DEFAULT_PRICE: Price = { series: 0.02, gigabyte: 0.1, currency: "" };

const nowAndBefore = { now: z.number(), before: z.number() };
/** Series now, of instances that report, and how many of the same kind there were before. */
export type NowAndBefore = z.infer<z.ZodObject<typeof nowAndBefore>>;

const growth = z.object({
  metric: z.string(),
  ...nowAndBefore,
  releases: z
    .array(z.object({ service: z.string(), release: z.string(), ...nowAndBefore }))
    .meta({ description: "Those that grew most first." }),
  attributes: z
    .array(
      z.object({
        name: z.string(),
        values: z.number(),
        examples: z.array(z.object({ value: z.string(), series: z.number() })),
      }),
    )
    .meta({ description: "Attributes with values that no series had before, the one with most of them first." }),
});
/** How the series of a metric grew. Exact, from the registry. */
export type Growth = z.infer<typeof growth>;

export const growthAnswer = z.object({
  since: z.number().meta({ description: 'What "before" is.' }),
  metrics: z.array(growth).meta({ description: "Those with most series first." }),
});

/** What a file that holds a pipeline would change, line by line. */
export const pipelineFileAnswer = z.object({
  config,
  live: z.number().meta({ description: "The version that it was held against." }),
  differences: z
    .array(z.array(z.object({ in: z.enum(["first", "second", "both"]), text: z.string() })))
    .meta({ description: "Stretches of lines around what differs: first the live version, second the file." }),
});

export const exporterSecret = z.object({
  exporter: z.string().regex(/^[a-z0-9-]{1,40}$/, "the id of an exporter is expected"),
  name: z.string().regex(/^[A-Za-z0-9-]{1,100}$/, "the name of a header is expected, or token for a page"),
  /** What the exporter sends to; it is sent to no other origin. "" for a page, which sends nothing. */
  address: z.string().max(2000).default(""),
  /** "" forgets it. */
  value: z
    .string()
    .max(4000)
    .regex(/^[\x20-\x7e]*$/, "printable characters are expected"),
});

/** How far back a growth can be looked at, ms. */
export const GROWTH_SPANS = [HOUR, DAY, 7 * DAY] as const;
