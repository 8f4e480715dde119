import { z } from "zod";
import { MAX_NUMBERED } from "../metric/pointLimits";
import { LIMITS } from "../otlp/limits";
import { isPattern, isUnit } from "../schema/refinements";

/**
 * A contract: what a team says that an instrument must look like. One schema, from which checking, forms, export and
 * import follow.
 */

/** Kinds of instruments (OpenTelemetry metrics API, "Instrument"). */
export const INSTRUMENT_KINDS = ["counter", "up-down counter", "gauge", "histogram", "exponential histogram"] as const;
export type InstrumentKind = (typeof INSTRUMENT_KINDS)[number];

const pattern = z.string().max(500).superRefine(isPattern);

export const contractAttribute = z.object({
  name: z.string().trim().min(1, "an attribute needs a name").max(LIMITS.keyLength),
  /** Whether every point must have it. */
  required: z.boolean().default(true),
  /** The values it may have; empty for any. */
  values: z.array(z.string().max(LIMITS.valueLength)).max(1000).default([]),
  /** What its whole values look like (RE2); "" for anything. */
  pattern: pattern.default(""),
  /** How many values are expected. */
  expected: z.number().int().min(1).max(1_000_000_000).nullable().default(null),
});
export type ContractAttribute = z.infer<typeof contractAttribute>;

const unit = z.string().trim().max(63).superRefine(isUnit);

export const contractBody = z
  .object({
    name: z
      .string()
      .trim()
      .regex(
        /^[A-Za-z][A-Za-z0-9_./-]{0,254}$/,
        "a name begins with a letter and goes on with letters, digits, and _ . - / (at most 255)",
      ),
    kind: z.enum(INSTRUMENT_KINDS),
    unit,
    description: z.string().trim().max(1000).default(""),
    attributes: z.array(contractAttribute).max(LIMITS.attributes).default([]),
    /** Bucket bounds of a histogram; null for those the SDK takes. */
    bounds: z.array(z.number()).min(1).max(LIMITS.buckets).nullable().default(null),
    /** The service that reports it; "" for any. */
    service: z.string().trim().max(300).default(""),
    /** How many instances report it. */
    instances: z.number().int().min(1).max(1_000_000).default(1),
    /** After how many minutes without a point it counts as missing; null: never. */
    silentAfter: z.number().int().min(1).max(10_080).nullable().default(null),
  })
  .superRefine(({ attributes, bounds, kind }, context) => {
    const names = attributes.map(({ name }) => name);
    const twice = names.find((name, i) => names.indexOf(name) !== i);
    if (twice !== undefined)
      context.addIssue({ code: "custom", path: ["attributes"], message: `attribute ${twice} stands twice` });
    if (bounds && kind !== "histogram")
      context.addIssue({ code: "custom", path: ["bounds"], message: "only a histogram has bucket bounds" });
    if (bounds?.some((bound, i) => i > 0 && bound <= bounds[i - 1]))
      context.addIssue({ code: "custom", path: ["bounds"], message: "bucket bounds must rise" });
  });
export type ContractBody = z.infer<typeof contractBody>;

/** Saving a contract: what it says, and why. */
export const contractSaving = z.object({
  body: contractBody,
  note: z.string().trim().min(1, "say in a few words what changed").max(500),
  /** The version that it was changed from; 0: there was none. */
  based: z
    .number("the version that it was changed from is expected; 0 where there was none")
    .int()
    .min(0)
    .max(MAX_NUMBERED),
});

/** Many contracts in a file, for review in a repository. */
export const contractFile = z.object({ contracts: z.array(contractBody).max(10_000) });

/** A saved contract. */
export interface ContractEntry {
  name: string;
  version: number;
  at: number;
  who: string;
  note: string;
  /** null: withdrawn. */
  body: ContractBody | null;
}

/** Series that a contract forecasts: the product of the expected counts of values, times instances. */
export function forecastSeries({ attributes, instances }: Pick<ContractBody, "attributes" | "instances">): {
  series: number;
  /** What each attribute multiplies by. */
  factors: { name: string; times: number }[];
  /** Attributes for which neither values nor a count are given; they count as one. */
  open: string[];
} {
  const open: string[] = [];
  const factors = attributes.map(({ name, values, expected, required }) => {
    const count = expected ?? (values.length > 0 ? values.length : null);
    if (count === null) open.push(name);
    // Where it may be missing, missing is one more value.
    return { name, times: count === null ? 1 : count + (required ? 0 : 1) };
  });
  return { series: factors.reduce((series, { times }) => series * times, instances), factors, open };
}
