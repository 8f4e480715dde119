import { z } from "zod";

/** Who may send: tokens, the rule, and who was turned away. Times in Unix ms. */

export const tokenRequest = z.object({
  name: z.string().trim().min(1, "a token needs a name: say who will use it").max(100),
  environment: z.string().trim().min(1, "a token is for one environment, such as production").max(100),
});
export type TokenRequest = z.infer<typeof tokenRequest>;

/** Whether points are taken without a token. */
export const tokenRule = z.object({ needed: z.boolean() });

const tokenEntry = z.object({
  id: z.number(),
  name: z.string(),
  environment: z.string(),
  hint: z.string().meta({ description: "How it begins." }),
  createdAt: z.number(),
  lastUsedAt: z.number().nullable(),
  revokedAt: z.number().nullable(),
});
export type TokenEntry = z.infer<typeof tokenEntry>;

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
  needed: z.boolean(),
  tokens: z.array(tokenEntry),
  rejected: z.array(rejectedRequestEntry),
});
