import { z } from "zod";
import type { Advice } from "../advice/advise";
import { type ContractBody, type ContractEntry, contractBody } from "../contract/contract";

/** Instruments as the API gives them: the catalogue, one metric's page, contracts. Times in Unix ms. */

export const metricEntry = z.object({
  name: z.string(),
  kind: z.string(),
  unit: z.string(),
  temporality: z.string(),
  monotonic: z.boolean(),
  description: z.string(),
});
export type MetricEntry = z.infer<typeof metricEntry>;

export const attributeEntry = z
  .object({ name: z.string(), values: z.array(z.string()) })
  .meta({ description: "An attribute of a metric's series with its values, the first hundred of them." });
export type AttributeEntry = z.infer<typeof attributeEntry>;

export const catalogueEntry = metricEntry.extend({
  variants: z.number().meta({ description: "Further kinds or units under the same name." }),
  services: z.array(z.string()),
  releases: z.number().meta({ description: "Releases in which it was seen." }),
  attributes: z.array(z.string()),
  seriesNow: z.number().meta({ description: "Series of the instances that report now." }),
  series: z.number().meta({ description: "Series that ever were." }),
  contract: z.number().nullable().meta({ description: "The version of its contract." }),
  findings: z.number().meta({ description: "Findings that hold now." }),
});
/** A part of the catalogue, by name. */
export const cataloguePart = z.object({
  instruments: z.array(catalogueEntry),
  next: z.string().nullable().meta({ description: "The name after which the next part begins; null at the end." }),
  all: z.number().meta({ description: "How many there are, of those that were asked for." }),
});
export type CataloguePart = z.infer<typeof cataloguePart>;

/** Which part of the catalogue is asked for. */
export const cataloguePartQuery = z.object({
  after: z.string().max(300).default("").meta({ description: "The name that the part before ended with." }),
  rows: z.coerce.number<string | number>().int().min(1).max(20_000).default(2000),
  defined: z.stringbool().default(false).meta({ description: "Only those with a contract." }),
});
export type CataloguePartQuery = z.infer<typeof cataloguePartQuery>;

/** One metric of the catalogue: all that ever arrived under a name, or was defined. */
export type CatalogueEntry = z.infer<typeof catalogueEntry>;

const shared = z.array(z.object({ value: z.string(), series: z.number() }));

const attributeShare = z.object({
  name: z.string(),
  place: z.enum(["point", "resource"]).meta({ description: "Of points, or of the resource that sends them." }),
  distinct: z.number(),
  values: shared.meta({ description: "The most frequent values with the series that have them." }),
  missing: z.number().meta({ description: "Series that lack it." }),
  without: z.number().meta({ description: "Series that would remain without it." }),
});
/** An attribute of a metric with its values. */
export type AttributeShare = z.infer<typeof attributeShare>;

const signed = { version: z.number(), at: z.number(), who: z.string(), note: z.string() };
const body = contractBody as unknown as z.ZodType<ContractBody, ContractBody>;

export const contractEntry: z.ZodType<ContractEntry> = z.object({
  name: z.string(),
  ...signed,
  body: body.nullable().meta({ description: "null: withdrawn." }),
});
/** A version that was saved. */
export const savedContract = z.object({ name: z.string(), version: z.number() });
/** A contract that is in force. */
export const contractInForce = z.object({ name: z.string(), ...signed, body });

export const findingEntry = z.object({
  id: z.number(),
  metric: z.string(),
  code: z.string(),
  subject: z.string(),
  service: z.string(),
  environment: z.string(),
  release: z.string(),
  instance: z.string(),
  detail: z.string(),
  firstAt: z.number(),
  lastAt: z.number(),
  endedAt: z.number().nullable(),
});
/** Something that does not look as it should. */
export type FindingEntry = z.infer<typeof findingEntry>;

export const instrumentAnswer = z.object({
  name: z.string(),
  variants: z.array(metricEntry.omit({ name: true }).extend({ firstAt: z.number(), series: z.number() })),
  series: z.number(),
  seriesNow: z.number(),
  attributes: z.array(attributeShare).meta({
    description: "Exact, of all series ever registered of instances that report now; of all where none does.",
  }),
  byRelease: z.array(
    z.object({
      service: z.string(),
      environment: z.string(),
      release: z.string(),
      series: z.number(),
      lastAt: z.number().nullable(),
    }),
  ),
  byDay: z
    .array(z.object({ day: z.number(), series: z.number() }))
    .meta({ description: "Series of the instances that were heard on each day, oldest first." }),
  exemplars: z.array(
    z.object({
      at: z.number(),
      value: z.number(),
      traceId: z.string(),
      spanId: z.string(),
      attributes: z.record(z.string(), z.string()),
    }),
  ),
  contract: contractEntry.nullable(),
  findings: z.array(findingEntry),
});
export type InstrumentAnswer = z.infer<typeof instrumentAnswer>;

const texts = z.record(z.string(), z.string());

const latestPoint = z.object({
  resource: texts,
  attributes: texts,
  at: z.number(),
  start: z.number().nullable(),
  value: z.number().nullable(),
  count: z.number().nullable(),
  sum: z.number().nullable(),
});
/** The last point of a series: a value, or count and sum. */
export type LatestPoint = z.infer<typeof latestPoint>;

export const latestAnswer = z.object({
  unit: z.string(),
  points: z.array(latestPoint),
  series: z.number().meta({ description: "Series that have a point, some of them not listed." }),
  heard: z.number().meta({ description: "Series that have one in the window itself." }),
  exposition: z.string().meta({ description: "The listed ones as OpenMetrics text." }),
});
export type LatestAnswer = z.infer<typeof latestAnswer>;

const offer = z.object({ scale: z.number(), buckets: z.number(), width: z.number() });

const advice: z.ZodType<Advice> = z.object({
  unit: z.string(),
  now: z.array(z.number()).nullable(),
  sharpness: z.array(
    z.object({ percent: z.number(), value: z.number(), low: z.number(), high: z.number().nullable() }),
  ),
  widthNow: z.number(),
  advised: z.object({ bounds: z.array(z.number()), width: z.number() }),
  exponential: offer,
  usualExponential: offer,
  guessed: z.boolean(),
  places: z.number(),
  open: z.number(),
});

export const adviceAnswer = z.object({ advice: advice.nullable(), unit: z.string() });
export type AdviceAnswer = z.infer<typeof adviceAnswer>;
