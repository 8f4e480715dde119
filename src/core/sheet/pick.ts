import { z } from "zod";
import { isPattern } from "../schema/refinements";

/** Picks: choices at the head of a sheet that its readings refer to as <name>. */

/** A name as readings write it in <>. */
export const pickName = z
  .string()
  .trim()
  .regex(/^[\p{L}_][\p{L}\p{N}_.-]*$/u, "a name begins with a letter and goes on with letters, digits, and _ . -")
  .max(40);

const text = z.string().max(1000);

/** Where the values come from that can be chosen. */
const source = z.discriminatedUnion("of", [
  z.object({ of: z.literal("list"), values: z.array(text.min(1)).min(1, "a list needs values").max(500) }),
  /** Whatever is typed. */
  z.object({ of: z.literal("text") }),
  z.object({
    of: z.literal("values"),
    attribute: z.string().trim().min(1, "an attribute is expected").max(255),
    /** The metric whose series are looked at; "" for all. */
    metric: z.string().max(255).default(""),
    /** A condition on them, as readings write it, which may name other picks; "" for none. It needs a metric. */
    where: z.string().trim().max(2000).default(""),
    /** A pattern (RE2) whose first group is cut out of each value; values that it does not match are left out. "" for the whole value. */
    pattern: z.string().max(500).superRefine(isPattern).default(""),
  }),
  /** Releases of a service; "" for all services. */
  z.object({ of: z.literal("releases"), service: z.string().max(300).default("") }),
  z.object({ of: z.literal("services") }),
  z.object({ of: z.literal("environments") }),
]);
export type PickSource = z.infer<typeof source>;

export const pick = z.object({
  name: pickName,
  /** The words before its value in the sentence: "depot". */
  words: z.string().trim().min(1, "say what is picked").max(60),
  source,
  /** Whether several may be chosen. */
  many: z.boolean().default(false),
  /** Whether all may be: then nothing is left out. */
  all: z.boolean().default(true),
  /** What is chosen where nobody chose; empty for all, or for the first where all may not be. */
  preset: z.array(text).max(100).default([]),
});
export type Pick = z.infer<typeof pick>;
