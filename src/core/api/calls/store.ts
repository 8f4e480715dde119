import { z } from "zod";
import { newId } from "../asked";
import { call, done } from "../call";
import { purgeCount, purgeInWords, purgeRequest } from "../purge";
import { costliestQuery, keepRequest, storeAnswer } from "../store";

/** What is stored, for how long, and its deletion. */

export const getStore = call({
  method: "GET",
  path: "/api/store",
  counts: true,
  does: "Says what is stored, what it costs, and how upkeep is doing; of the metrics the costliest, or those with a text in their names.",
  query: costliestQuery,
  answer: storeAnswer,
  example: { query: { find: "loan", rows: 10 } },
});

export const keepMetric = call({
  method: "POST",
  path: "/api/store/keep",
  does: "Sets for how long a metric is kept at each resolution; null takes the default.",
  did: "changed for how long a metric is kept",
  about: ({ body }) => body.metric,
  right: "own",
  body: keepRequest,
  answer: done,
  problems: { 404: "No metric of that name has arrived." },
  example: { body: { metric: "loan.reserved", raw: 1_209_600_000, minutes: null, hours: null } },
});

export const previewPurge = call({
  method: "POST",
  path: "/api/store/purge/preview",
  does: "Says what a purge would delete.",
  changes: false,
  body: purgeRequest,
  answer: purgeCount,
  example: { body: { metric: "loan.reserved" } },
});

export const purge = call({
  method: "POST",
  path: "/api/store/purge",
  does: "Puts a purge on record; upkeep does the work.",
  did: "began to delete data",
  about: ({ body }) => purgeInWords(body),
  right: "own",
  body: purgeRequest,
  answer: newId,
  status: 202,
  example: { body: { metric: "loan.reserved" } },
});

export const deleteSetAside = call({
  method: "DELETE",
  path: "/api/store/aside",
  does: "Deletes what background jobs could not handle, for good.",
  did: "deleted what was set aside",
  right: "own",
  answer: z.object({ deleted: z.number() }),
});
