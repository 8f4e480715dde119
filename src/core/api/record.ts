import { z } from "zod";

/** Who did what and when. Times in Unix ms. */

export const recordLine = z.object({
  id: z.number(),
  at: z.number(),
  who: z.string().meta({ description: "The name of the person or key, as it was then." }),
  account: z.string().nullable().meta({ description: "The person's account; null for programs and for nobody." }),
  did: z.string(),
  about: z.string().meta({ description: "What it was done to." }),
  address: z.string().meta({ description: "The address that it came from." }),
});
export type RecordLine = z.infer<typeof recordLine>;
