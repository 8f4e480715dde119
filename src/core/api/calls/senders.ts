import { z } from "zod";
import { newId, withId } from "../asked";
import { call, done } from "../call";
import { sendersAnswer, tokenRequest, tokenRule } from "../senders";
import { targetEntry, targetRequest, trialAnswer, trialRequest } from "../targets";

/** Who may send, and what is scraped. */

const NO_TARGET = { 404: "No target has this number; it may be deleted." };
const TARGET = {
  name: "lockers",
  url: "http://localhost:9101/metrics",
  every: 15_000,
  timeout: 10_000,
  auth: "none",
};

export const getSenders = call({
  method: "GET",
  path: "/api/senders",
  does: "Lists tokens, says whether one is needed, and who was turned away.",
  answer: sendersAnswer,
});

export const changeTokenRule = call({
  method: "PUT",
  path: "/api/senders",
  does: "Says whether points are taken only with a token.",
  right: "own",
  body: tokenRule,
  answer: done,
  example: { body: { needed: false } },
});

export const clearRejected = call({
  method: "DELETE",
  path: "/api/senders",
  does: "Takes all who were turned away off the record.",
  answer: done,
});

export const makeToken = call({
  method: "POST",
  path: "/api/senders/tokens",
  does: "Makes a token. Its text is in this answer and nowhere else.",
  right: "own",
  body: tokenRequest,
  answer: newId.extend({ text: z.string() }),
  status: 201,
  example: { body: { name: "loans in production", environment: "production" } },
});

export const revokeToken = call({
  method: "DELETE",
  path: "/api/senders/tokens/{id}",
  does: "Puts a token out of force for good.",
  right: "own",
  params: withId,
  answer: done,
  problems: { 404: "No token in force has this number." },
  example: { params: { id: "1" } },
});

export const getTargets = call({
  method: "GET",
  path: "/api/targets",
  does: "Lists what is scraped, and how that goes.",
  answer: z.object({ targets: z.array(targetEntry) }),
});

export const addTarget = call({
  method: "POST",
  path: "/api/targets",
  does: "Saves a target; its scrapes begin at once.",
  right: "own",
  body: targetRequest,
  answer: newId,
  status: 201,
  example: { body: TARGET },
});

export const changeTarget = call({
  method: "PUT",
  path: "/api/targets/{id}",
  does: "Changes a target; a secret that is left out stays.",
  right: "own",
  params: withId,
  body: targetRequest,
  answer: done,
  problems: NO_TARGET,
  example: { params: { id: "1" }, body: TARGET },
});

export const deleteTarget = call({
  method: "DELETE",
  path: "/api/targets/{id}",
  does: "Stops scraping a target. What was collected stays, and for a day the target can be brought back.",
  right: "own",
  params: withId,
  answer: done,
  problems: NO_TARGET,
  example: { params: { id: "1" } },
});

export const restoreTarget = call({
  method: "POST",
  path: "/api/targets/{id}",
  does: "Brings a deleted target back.",
  right: "own",
  params: withId,
  answer: done,
  problems: NO_TARGET,
  example: { params: { id: "1" } },
});

export const tryTarget = call({
  method: "POST",
  path: "/api/targets/try",
  does: "Tries a target from where it will be scraped, and says what it offers or what is wrong.",
  right: "own",
  changes: false,
  body: trialRequest,
  answer: trialAnswer,
  problems: { 429: "Too many are tried at once." },
  example: { body: TARGET },
});
