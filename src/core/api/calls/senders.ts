import { z } from "zod";
import { newId, withId } from "../asked";
import { call, done } from "../call";
import { keyRule } from "../keys";
import { sendersAnswer } from "../senders";
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
  does: "Says whether a key is needed to send, how many there are, and who was turned away.",
  answer: sendersAnswer,
});

export const changeKeyRule = call({
  method: "PUT",
  path: "/api/senders",
  does: "Says whether points are taken only with a key.",
  right: "own",
  did: "changed whether points are taken only with a key",
  about: ({ body }) => (body.needed ? "they are" : "they are not"),
  body: keyRule,
  answer: done,
  example: { body: { needed: false } },
});

export const clearRejected = call({
  method: "DELETE",
  path: "/api/senders",
  does: "Takes all who were turned away off the list.",
  did: "took all who were turned away off the list",
  answer: done,
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
  did: "added a target",
  about: ({ body }) => `${body.name}, ${body.url.split(/[?#]/)[0]}`,
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
  did: "changed a target",
  about: ({ body }) => `${body.name}, ${body.url.split(/[?#]/)[0]}`,
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
  did: "deleted a target",
  about: ({ params }) => `number ${params.id}`,
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
  did: "brought a target back",
  about: ({ params }) => `number ${params.id}`,
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
