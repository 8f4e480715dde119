import { z } from "zod";
import { call, done } from "../call";
import { email, linkText, meAnswer, password, personName, role, sessionsAnswer } from "../people";

/** Signing in and out, and what people do with their own account. */

const WRONG = {
  401: "The address, the password or the code is wrong.",
  429: "Too many attempts; the answer says when to come back.",
};
const LINK_ENDED = { 410: "The address was used, or has ended.", 429: WRONG[429] };
/** Whether a code is still asked for. */
const signedIn = z.object({ codeNeeded: z.boolean() });
const ownPassword = z.object({ password });
const EXAMPLE = { email: "ottilie@fern-anvil.example", password: "four words of slate" };

export const getMe = call({
  method: "GET",
  path: "/api/me",
  does: "Says who asks, and what they may.",
  right: "anybody",
  answer: meAnswer,
});

export const signIn = call({
  method: "POST",
  path: "/api/sign-in",
  does: "Signs in with address and password; the session is in the answer's cookie.",
  right: "anybody",
  body: z.object({ email, password }),
  answer: signedIn,
  problems: WRONG,
  example: { body: EXAMPLE },
});

export const signInWithCode = call({
  method: "POST",
  path: "/api/sign-in/code",
  does: "Completes a sign-in with a one-time code, or a recovery code, which is used up by it.",
  right: "anybody",
  body: z.object({
    code: z.string().trim().min(1, "a code is expected").max(40),
    recovery: z.boolean().default(false),
  }),
  answer: done,
  problems: WRONG,
  example: { body: { code: "123456" } },
});

export const signOut = call({
  method: "POST",
  path: "/api/sign-out",
  does: "Ends the session that asks.",
  right: "self",
  did: "signed out",
  answer: done,
});

export const askReset = call({
  method: "POST",
  path: "/api/reset",
  does: "Sends a link for a new password to an address, if it has an account; the answer does not tell.",
  right: "anybody",
  body: z.object({ email }),
  answer: done,
  problems: { 429: WRONG[429] },
  example: { body: { email: EXAMPLE.email } },
});

export const resetPassword = call({
  method: "POST",
  path: "/api/reset/password",
  does: "Sets a new password by such a link; every session of the account ends.",
  right: "anybody",
  body: z.object({ link: linkText, password }),
  answer: done,
  problems: LINK_ENDED,
  example: { body: { link: "from-the-mail", password: EXAMPLE.password } },
});

export const makeFirstOwner = call({
  method: "POST",
  path: "/api/first-owner",
  does: "Makes the first account, by the address that the start printed, and signs it in.",
  right: "anybody",
  body: z.object({ link: linkText, name: personName, email, password }),
  answer: done,
  problems: LINK_ENDED,
  example: { body: { link: "from-the-start", name: "Ottilie", ...EXAMPLE } },
});

export const getInvitation = call({
  method: "GET",
  path: "/api/invitation",
  does: "Says whom an invitation is for.",
  right: "anybody",
  query: z.object({ link: linkText }),
  answer: z.object({ email: z.string(), role, madeBy: z.string() }),
  problems: LINK_ENDED,
  example: { query: { link: "from-the-mail" } },
});

export const acceptInvitation = call({
  method: "POST",
  path: "/api/invitation",
  does: "Makes the account that an invitation is for, and signs it in.",
  right: "anybody",
  body: z.object({ link: linkText, name: personName, password }),
  answer: done,
  problems: { ...LINK_ENDED, 409: "The address has an account already." },
  example: { body: { link: "from-the-mail", name: "Quill", password: EXAMPLE.password } },
});

export const lookAround = call({
  method: "POST",
  path: "/api/demonstration",
  does: "Signs in as one of the demonstration's accounts, by the address that the start printed or by choice. It is there only where the demonstration runs.",
  right: "anybody",
  body: z.object({ link: linkText.optional(), email: email.optional() }),
  answer: done,
  problems: { ...LINK_ENDED, 404: "There is no demonstration here." },
  example: { body: { email: "ottilie@fern-anvil.example" } },
});

export const changeName = call({
  method: "PUT",
  path: "/api/me",
  does: "Changes one's own name.",
  right: "self",
  did: "changed their name",
  about: ({ body }) => body.name,
  body: z.object({ name: personName }),
  answer: done,
  example: { body: { name: "Ottilie" } },
});

export const changePassword = call({
  method: "PUT",
  path: "/api/me/password",
  does: "Changes one's own password; every other session ends.",
  right: "self",
  did: "changed their password",
  body: z.object({ current: password, password }),
  answer: done,
  problems: WRONG,
  example: { body: { current: EXAMPLE.password, password: "four words of copper" } },
});

export const getSessions = call({
  method: "GET",
  path: "/api/me/sessions",
  does: "Lists where one is signed in.",
  right: "self",
  answer: sessionsAnswer,
});

export const endOtherSessions = call({
  method: "DELETE",
  path: "/api/me/sessions",
  does: "Signs one out everywhere else.",
  right: "self",
  did: "ended all their other sessions",
  answer: done,
});

export const endSession = call({
  method: "DELETE",
  path: "/api/me/sessions/{id}",
  does: "Ends one of one's own sessions.",
  right: "self",
  did: "ended a session of theirs",
  params: z.object({ id: z.string().max(100) }),
  answer: done,
  problems: { 404: "No session of yours has this id." },
  example: { params: { id: "1" } },
});

export const beginCodes = call({
  method: "POST",
  path: "/api/me/codes",
  does: "Begins to set up one-time codes (RFC 6238): gives their secret and the recovery codes, once.",
  right: "self",
  body: ownPassword,
  answer: z.object({ uri: z.string(), secret: z.string(), recovery: z.array(z.string()) }),
  problems: { ...WRONG, 409: "Codes are set up already." },
  example: { body: { password: EXAMPLE.password } },
});

export const confirmCodes = call({
  method: "PUT",
  path: "/api/me/codes",
  does: "Completes it with a first code; from then on one is asked for at each sign-in.",
  right: "self",
  did: "set up one-time codes",
  body: z.object({ code: z.string().trim().max(20) }),
  answer: done,
  problems: WRONG,
  example: { body: { code: "123456" } },
});

export const endCodes = call({
  method: "DELETE",
  path: "/api/me/codes",
  does: "Takes one's one-time codes away.",
  right: "self",
  did: "took their one-time codes away",
  body: ownPassword,
  answer: done,
  problems: WRONG,
  example: { body: { password: EXAMPLE.password } },
});

export const newRecoveryCodes = call({
  method: "POST",
  path: "/api/me/codes/recovery",
  does: "Makes new recovery codes; those before are void.",
  right: "self",
  did: "made new recovery codes",
  body: ownPassword,
  answer: z.object({ recovery: z.array(z.string()) }),
  problems: WRONG,
  example: { body: { password: EXAMPLE.password } },
});
