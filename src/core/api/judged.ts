import { z } from "zod";

/** A change with its verdict. */
export const judgedParts = {
  value: z.number(),
  low: z.number().nullable().meta({ description: "null: as low as can be." }),
  high: z.number().nullable().meta({ description: "null: as high as can be." }),
  verdict: z.enum(["worse", "better", "same", "not enough yet"]),
  times: z
    .number()
    .nullable()
    .meta({ description: "How many times the calls would settle it; null: that is not known." }),
  tooWide: z.boolean().meta({ description: "Whether no number of calls would, because the buckets are too wide." }),
};
