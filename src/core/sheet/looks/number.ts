import { z } from "zod";
import { lookKind, parts } from "./definition";

const { thresholds } = parts;

export const number = lookKind({
  as: "number",
  name: "one number",
  note: "what the window comes to, and how it changed",
  settings: {
    /** How much earlier the window lies that it is held against; "" for none. */
    against: z.enum(["", "1h", "1d", "1w", "4w"]).default("1w"),
    /** Which way is good. */
    good: z.enum(["up", "down", "neither"]).default("neither"),
    /** Whether its course stands below it. */
    course: z.boolean().default(true),
    thresholds,
  },
  shows: "window",
  most: 3,
});
