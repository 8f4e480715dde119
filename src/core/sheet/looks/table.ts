import { z } from "zod";
import { lookKind, parts } from "./definition";

const { top } = parts;

export const table = lookKind({
  as: "table",
  name: "table",
  note: "several readings side by side, joined by their labels",
  settings: {
    /** The column by which rows are sorted: the place of a reading, or a label; "" for the first reading. */
    sort: z.string().max(200).default(""),
    falling: z.boolean().default(true),
    top,
    /** Whether cells have bars behind their values. */
    bars: z.boolean().default(true),
    /** Whether a last row adds up what can be added up. */
    sums: z.boolean().default(false),
    /** Where a row leads: an address in which {label} stands for the row's value; "" nowhere. */
    link: z.string().trim().max(500).default(""),
  },
  shows: "window",
  most: 6,
});
