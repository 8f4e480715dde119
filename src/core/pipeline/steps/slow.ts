import { z } from "zod";
import { LEVEL_HOWS, seconds } from "../parts";
import { defineStep, LEVEL_WORDS } from "./definition";
import { choice, number } from "./sentence";

const { sum: _, ...WORDS } = LEVEL_WORDS;

export const slow = defineStep({
  type: "slow",
  lanes: ["metrics"],
  settings: { every: seconds.default(60), gauges: z.enum(LEVEL_HOWS).exclude(["sum"]).default("mean") },
  name: "slow down",
  does: "fewer points, the same totals",
  sentence: () => ["one point every ", number("every", "seconds"), " s, gauges ", choice("gauges", "gauges", WORDS)],
  documented: "one point per window, the same totals",
  windowed: "always",
  window: ({ every, gauges }) => ({ every: every * 1000, within: gauges, across: "last", target: (series) => series }),
});
