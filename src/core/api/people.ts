import { z } from "zod";
import { ROLES } from "../access/rights";
import { isOneLine } from "../schema/refinements";

/** People, their sessions and what is asked of them. Times in Unix ms. */

export const email = z
  .string()
  .trim()
  .toLowerCase()
  .max(200)
  .pipe(z.email("an address for mail is expected, such as ottilie@fern-anvil.example"));
export const personName = z.string().trim().min(1, "a name is expected").max(100).superRefine(isOneLine);
export const role = z.enum(ROLES);
/** A password as it is typed; what it has to be is said where one is chosen. */
export const password = z.string().min(1, "a password is expected").max(1000);
/** The text in an address that works once. */
export const linkText = z.string().min(1, "the address is not whole").max(100);

/** What is asked of everybody. */
export const peopleRule = z.object({ codesRequired: z.boolean() });

const personEntry = z.object({
  id: z.string(),
  name: z.string(),
  email: z.string(),
  role,
  off: z.boolean().meta({ description: "Whether the account is switched off." }),
  codes: z.boolean().meta({ description: "Whether one-time codes are asked for when they sign in." }),
  createdAt: z.number(),
  lastSignIn: z.number().nullable(),
});
export type PersonEntry = z.infer<typeof personEntry>;

const invitationEntry = z.object({
  id: z.string(),
  email: z.string(),
  role,
  madeBy: z.string(),
  createdAt: z.number(),
  expiresAt: z.number(),
});
export type InvitationEntry = z.infer<typeof invitationEntry>;

export const peopleAnswer = z.object({
  people: z.array(personEntry),
  invitations: z.array(invitationEntry),
  codesRequired: z.boolean(),
  mail: z.boolean().meta({ description: "Whether mail can be sent; without it, links are handed over." }),
});

/** A link that was made for somebody. */
export const madeLink = z.object({
  link: z.string(),
  mailed: z.boolean().meta({ description: "Whether it was sent to them; else it is to be handed over." }),
});

const sessionEntry = z.object({
  id: z.string(),
  own: z.boolean().meta({ description: "Whether it is the one that asks." }),
  createdAt: z.number(),
  expiresAt: z.number(),
  address: z.string(),
  agent: z.string(),
});
export type SessionEntry = z.infer<typeof sessionEntry>;
export const sessionsAnswer = z.object({ sessions: z.array(sessionEntry) });

export const RIGHT_NAMES = ["anybody", "self", "see", "announce", "edit", "own"] as const;

/** Who asks, and what they may. */
export const meAnswer = z.object({
  kind: z.enum(["nobody", "account", "key"]),
  name: z.string(),
  email: z.string(),
  role: role.nullable(),
  rights: z.array(z.enum(RIGHT_NAMES)),
  codes: z.boolean(),
  mustSetUpCodes: z.boolean(),
  mail: z.boolean(),
  anybody: z.boolean().meta({ description: "Whether anybody has an account here yet." }),
  demonstration: z
    .array(z.object({ email: z.string(), name: z.string(), role }))
    .nullable()
    .meta({ description: "Accounts of the demonstration, where it runs: who looks may choose one." }),
});
export type Me = z.infer<typeof meAnswer>;
