import { z } from "zod";

/** What a way to look at readings is: all that is known of one, in one place. */

/** In which order series stand. */
export const ORDERS = ["as read", "largest first", "smallest first", "by name"] as const;
export type Order = (typeof ORDERS)[number];

/** A value with its unit as a person writes it: "300 ms", "0.5 %", "12". */
const amount = z
  .string()
  .trim()
  .regex(/^-?\d+(?:\.\d+)?(?:\s*\S+)?$/, "a number is expected, with its unit where it has one: 300 ms")
  .max(40);

/** A level that means something: a line with a word. */
export const threshold = z.object({
  at: amount,
  word: z.string().trim().min(1, "say what it means").max(60),
  /** On which side of it something is wrong. */
  wrong: z.enum(["above", "below", "neither"]).default("neither"),
});
export type Threshold = z.infer<typeof threshold>;

/** Parts that several ways of looking have. */
export const parts = {
  order: z.enum(ORDERS).default("as read"),
  /** How many series are shown; null for all that there is room for. */
  top: z.number().int().min(1).max(60).nullable().default(null),
  /** Whether what is not shown is added up as one series. */
  rest: z.boolean().default(false),
  thresholds: z.array(threshold).max(6).default([]),
  /** Where the axis begins and ends; "" leaves it to the values. */
  from: z.union([amount, z.literal("")]).default(""),
  to: z.union([amount, z.literal("")]).default(""),
  log: z.boolean().default(false),
};

export interface LookKind<T extends string = string, S extends z.ZodRawShape = z.ZodRawShape> {
  as: T;
  /** How it is called. */
  name: string;
  /** What it is good for, in one line. */
  note: string;
  /** Its settings, beside what it is. */
  settings: S;
  /** Whether it shows steps, or what the whole window comes to. */
  shows: "steps" | "window";
  /** How many readings it takes. */
  most: number;
}

/** Declares one. */
export function lookKind<const T extends string, S extends z.ZodRawShape>(kind: LookKind<T, S>): LookKind<T, S> {
  return kind;
}
