import { z } from "zod";
import { defineStep } from "./definition";
import { number } from "./sentence";

/** Windows in which what is past a limit becomes one, ms. */
const EVERY = 10_000;

export const limit = defineStep({
  type: "limit",
  lanes: ["metrics"],
  settings: { series: z.number().int().min(1).max(1_000_000) },
  blank: { series: 1000 },
  name: "limit series",
  does: "further ones go to an overflow series",
  sentence: () => [
    "at most ",
    number("series", "series"),
    " series of a metric; further ones go to the overflow series",
  ],
  documented: "so many series of a metric; further ones go to the series marked `otel.metric.overflow`",
  windowed: ({ series }) => series,
  window: (_, { overflow }) => ({ every: EVERY, within: "last", across: "sum", target: overflow }),
});
