import { z } from "zod";

/** Who may send, and who was turned away. Times in Unix ms. */

const rejectedRequestEntry = z.object({
  id: z.number(),
  address: z.string(),
  agent: z.string(),
  request: z.string(),
  status: z.number(),
  reason: z.string(),
  firstAt: z.number(),
  lastAt: z.number(),
  count: z.number(),
});
/** Requests that were refused for the same reason, from the same place. */
export type RejectedRequestEntry = z.infer<typeof rejectedRequestEntry>;

export const sendersAnswer = z.object({
  needed: z.boolean().meta({ description: "Whether points are taken only with a key." }),
  keys: z.array(z.object({ name: z.string(), environment: z.string(), lastUsedAt: z.number().nullable() })).meta({
    description: "Keys in force to send with.",
  }),
  rejected: z.array(rejectedRequestEntry),
});
