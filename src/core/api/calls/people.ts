import { z } from "zod";
import { newId, withId } from "../asked";
import { call, done, plain } from "../call";
import { keyEntry, keyRequest } from "../keys";
import { email, madeLink, peopleAnswer, peopleRule, role } from "../people";
import { recordLine } from "../record";

/** Who may do what: people, keys, and the record of what was done. */

const OWNERS = { right: "own", peopleOnly: true } as const;
/** The record will never have more lines. */
const MAX_LINES = 1e15;
const NO_PERSON = { 404: "No account has this id." };
const withText = z.object({ id: z.string().max(100) });

export const getPeople = call({
  method: "GET",
  path: "/api/people",
  does: "Lists accounts and invitations that are open.",
  ...OWNERS,
  answer: peopleAnswer,
});

export const changePeopleRule = call({
  method: "PUT",
  path: "/api/people",
  does: "Says whether one-time codes are asked of everybody.",
  ...OWNERS,
  did: "changed whether one-time codes are asked of everybody",
  about: ({ body }) => (body.codesRequired ? "they are" : "they are not"),
  body: peopleRule,
  answer: done,
  problems: { 409: "Who asks codes of everybody needs their own." },
  example: { body: { codesRequired: false } },
});

export const changePerson = call({
  method: "PUT",
  path: "/api/people/{id}",
  does: "Gives somebody another role, or switches their account off or on. Who is switched off is refused at their next request.",
  ...OWNERS,
  params: withText,
  body: z.object({ role: role.optional(), off: z.boolean().optional() }),
  answer: done,
  problems: { ...NO_PERSON, 409: "The last owner stays one." },
  example: { params: { id: "1" }, body: { role: "editor" } },
});

export const makeResetLink = call({
  method: "POST",
  path: "/api/people/{id}/reset",
  does: "Makes a link for somebody's new password; it is sent to them where mail can be sent.",
  ...OWNERS,
  params: withText,
  answer: madeLink,
  problems: NO_PERSON,
  example: { params: { id: "1" } },
});

export const invite = call({
  method: "POST",
  path: "/api/people/invitations",
  does: "Invites somebody; the link is sent to them where mail can be sent.",
  ...OWNERS,
  did: "invited",
  about: ({ body }) => `${body.email} as ${body.role}`,
  body: z.object({ email, role }),
  answer: madeLink,
  status: 201,
  problems: { 409: "The address has an account already." },
  example: { body: { email: "quill@fern-anvil.example", role: "editor" } },
});

export const endInvitation = call({
  method: "DELETE",
  path: "/api/people/invitations",
  does: "Takes an invitation back.",
  ...OWNERS,
  did: "took an invitation back",
  about: ({ body }) => body.email,
  body: z.object({ email }),
  answer: done,
  problems: { 404: "No invitation to this address is open." },
  example: { body: { email: "quill@fern-anvil.example" } },
});

export const getKeys = call({
  method: "GET",
  path: "/api/keys",
  does: "Lists the keys of programs, those in force first.",
  ...OWNERS,
  answer: z.object({ keys: z.array(keyEntry) }),
});

export const makeKey = call({
  method: "POST",
  path: "/api/keys",
  does: "Makes a key. Its text is in this answer and nowhere else.",
  ...OWNERS,
  did: "made a key",
  about: ({ body }) => `${body.name}, to ${body.scopes.join(", ")}`,
  body: keyRequest,
  answer: newId.extend({ text: z.string() }),
  status: 201,
  example: { body: { name: "loans in production", scopes: ["send"], environment: "production" } },
});

export const revokeKey = call({
  method: "DELETE",
  path: "/api/keys/{id}",
  does: "Puts a key out of force for good.",
  ...OWNERS,
  params: withId,
  answer: done,
  problems: { 404: "No key in force has this number." },
  example: { params: { id: "1" } },
});

const found = z.string().max(200).default("");

export const getRecord = call({
  method: "GET",
  path: "/api/record",
  does: "Tells who did what and when, the newest first.",
  ...OWNERS,
  query: z.object({
    find: found.meta({ description: "Only lines with this text in any part." }),
    before: z.coerce
      .number<string | number>()
      .int()
      .min(1)
      .max(MAX_LINES)
      .optional()
      .meta({ description: "Only lines before this one." }),
    rows: z.coerce.number<string | number>().int().min(1).max(1000).default(100),
  }),
  answer: z.object({ lines: z.array(recordLine), more: z.boolean() }),
  example: { query: { find: "key", rows: 10 } },
});

export const getRecordTable = call({
  method: "GET",
  path: "/api/record/csv",
  does: "Writes the record, or the lines with a text, as a table (RFC 4180).",
  ...OWNERS,
  query: z.object({ find: found }),
  answer: plain("text/csv"),
});

export const getMail = call({
  method: "GET",
  path: "/api/mail",
  does: "Says whether mail can be sent, and whom it comes from.",
  ...OWNERS,
  answer: z.object({ on: z.boolean(), from: z.string() }),
});

export const tryMail = call({
  method: "POST",
  path: "/api/mail",
  does: "Sends a message to one's own address, and says whether it was taken.",
  ...OWNERS,
  did: "tried whether mail is taken",
  answer: z.object({ taken: z.boolean() }),
});
