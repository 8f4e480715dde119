import { z } from "zod";
import { USUAL_TOLERANCES } from "../compare/comparison";
import { parseCondition, parseReading } from "../reading/language/parse";

/** How a team looks at the releases of a service. */

const parses = (parse: (text: string) => unknown) => (text: string, context: z.RefinementCtx) => {
  if (text === "") return;
  try {
    parse(text);
  } catch (error) {
    context.addIssue({ code: "custom", message: (error as Error).message });
  }
};

/** A measure of the team's own: a reading, and what is good of it. */
export const ladderColumn = z.object({
  name: z.string().trim().min(1).max(60),
  reading: z.string().trim().min(1).max(2000).superRefine(parses(parseReading)),
  good: z.enum(["more", "less", "none"]).meta({ description: "Whether more of it is good, or less, or neither." }),
});
export type LadderColumn = z.infer<typeof ladderColumn>;

const MAX_COLUMNS = 6;

export const ladderSetting = z.object({
  metric: z.string().max(300).default("").meta({ description: 'The histogram of calls; "": the one that fits best.' }),
  failed: z
    .string()
    .max(1000)
    .default("")
    .superRefine(parses(parseCondition))
    .meta({ description: 'Which calls count as failed, as a condition; "": as the semantic conventions say.' }),
  against: z
    .string()
    .max(300)
    .default("")
    .meta({ description: '"": the release before it; "beside": what serves beside it; else a release.' }),
  tolerances: z
    .object({
      latency: z.number().min(0.001).max(10).meta({ description: "Relative: 0.05 is 5 %." }),
      failures: z.number().min(0.00001).max(1).meta({ description: "A part of all calls: 0.001 is 0.1 points." }),
    })
    .default(USUAL_TOLERANCES),
  columns: z.array(ladderColumn).max(MAX_COLUMNS).default([]),
});
export type LadderSetting = z.infer<typeof ladderSetting>;

export const USUAL_SETTING: LadderSetting = ladderSetting.parse({});
