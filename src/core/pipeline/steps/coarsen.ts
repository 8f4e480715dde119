import { z } from "zod";
import { type Amount, amountAt, atScale, columnsOf, onBounds } from "../amount";
import { defineStep } from "./definition";
import { number, numbers } from "./sentence";

function coarsened(amount: Amount, { bounds, scale }: { bounds: readonly number[]; scale: number | null }): Amount {
  if (amount.kind === "explicit" && bounds.length > 0) return onBounds(amount, (bound) => bounds.includes(bound));
  if (amount.kind === "exponential" && scale !== null) return atScale(amount, scale);
  return amount;
}

export const coarsen = defineStep({
  type: "coarsen",
  lanes: ["metrics"],
  settings: {
    /** Bounds that explicit histograms keep, as far as they have them. */
    bounds: z.array(z.number()).max(200).default([]),
    /** The finest scale that exponential histograms keep. */
    scale: z.number().int().min(-10).max(20).nullable().default(null),
  },
  name: "coarsen histograms",
  does: "fewer buckets",
  sentence: () => [
    "of explicit histograms keep the bounds ",
    numbers("bounds", "bounds"),
    "; of exponential ones the scale ",
    number("scale", "scale", "as it is"),
  ],
  documented: "fewer buckets, a lower exponential scale",
  values: (step) => ({
    changes: ({ kind }) => kind === "histogram" || kind === "exponential",
    point: () => (set, row) => {
      const amount = amountAt(set, row);
      return amount
        ? columnsOf(coarsened(amount, step))
        : { layout: set.layout, values: set.columns.map((column) => column[row]) };
    },
    factor: () => 1,
  }),
});
