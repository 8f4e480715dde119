import { z } from "zod";
import { SCOPES } from "../access/rights";
import { isOneLine } from "../schema/refinements";

/** Keys of programs. Times in Unix ms. */

/** As long as a key may be made for, days. */
const LONGEST = 3660;

export const keyRequest = z
  .object({
    name: z.string().trim().min(1, "a key needs a name: say who will use it").max(100).superRefine(isOneLine),
    scopes: z.array(z.enum(SCOPES)).min(1, "say what the key is for").max(SCOPES.length),
    environment: z
      .string()
      .trim()
      .max(100)
      .default("")
      .meta({ description: "What is sent with it belongs to this environment." }),
    days: z
      .number("a number of days is expected")
      .int()
      .min(1, "a key is in force for a day at least")
      .max(LONGEST, `a key is in force for ${LONGEST} days at most; leave it out for one without an end`)
      .nullable()
      .default(null)
      .meta({ description: "For how many days it is in force; null for no end." }),
  })
  .refine(({ scopes, environment }) => !scopes.includes("send") || environment !== "", {
    path: ["environment"],
    message: "a key to send with is for one environment, such as production",
  });
export type KeyRequest = z.infer<typeof keyRequest>;

/** Whether points are taken without a key. */
export const keyRule = z.object({ needed: z.boolean() });

export const keyEntry = z.object({
  id: z.number(),
  name: z.string(),
  scopes: z.array(z.enum(SCOPES)),
  environment: z.string(),
  hint: z.string().meta({ description: "How it begins." }),
  madeBy: z.string(),
  createdAt: z.number(),
  expiresAt: z.number().nullable(),
  lastUsedAt: z.number().nullable(),
  revokedAt: z.number().nullable(),
});
export type KeyEntry = z.infer<typeof keyEntry>;
