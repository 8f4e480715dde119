import { z } from "zod";

/** Who may send: tokens, the rule, and who was turned away. Times in Unix ms. */

export const tokenRequest = z.object({
  name: z.string().trim().min(1, "a token needs a name: say who will use it").max(100),
  environment: z.string().trim().min(1, "a token is for one environment, such as production").max(100),
});
export type TokenRequest = z.infer<typeof tokenRequest>;

/** Whether points are taken without a token. */
export const tokenRule = z.object({ needed: z.boolean() });

export interface TokenEntry {
  id: number;
  name: string;
  environment: string;
  /** How it begins. */
  hint: string;
  createdAt: number;
  lastUsedAt: number | null;
  revokedAt: number | null;
}

/** Requests that were refused for the same reason, from the same place. */
export interface TurnedAwayEntry {
  id: number;
  address: string;
  agent: string;
  request: string;
  status: number;
  reason: string;
  firstAt: number;
  lastAt: number;
  count: number;
}

export interface SendersAnswer {
  needed: boolean;
  tokens: TokenEntry[];
  turnedAway: TurnedAwayEntry[];
}
