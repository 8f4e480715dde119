import { z } from "zod";
import { moment, orderly, place, window, zone } from "../asked";
import { call } from "../call";
import { comparisonAnswer } from "../comparison";
import { heldFrom } from "../held";
import { verdictAnswer } from "../releaseVerdict";

/** Releases held against each other. */

const release = z.string().min(1).max(300);
const EXAMPLE = { service: "loans", environment: "production", release: "5.3.0" };
const SPAN = { from: 1764000000000, to: 1764003600000 };

const MAX_HELD = 8;
const heldValue = z.string().min(1).max(1000);

/** Values that calls are held to: once or several times. */
const heldQuery = z
  .union([heldValue.transform((text) => [text]), z.array(heldValue).max(MAX_HELD)])
  .default([])
  .transform((all) => all.map(heldFrom))
  .refine((all) => all.every(({ attribute }) => attribute !== ""), "an attribute is expected, as in depot=Brindle")
  .meta({ description: "Only calls with this value, as in depot=Brindle; as often as needed." });

const asked = {
  ...place,
  release,
  against: z.string().max(300).default("").meta({ description: 'A release; "": as the team chose for the service.' }),
  againstService: z.string().max(300).default("").meta({ description: '"": the same service.' }),
  againstEnvironment: z.string().max(300).optional().meta({ description: "Left out: the same environment." }),
  metric: z.string().max(300).default(""),
  ...window,
  zone,
  hold: heldQuery,
  by: z.string().max(300).default("").meta({ description: "The attribute to look at." }),
};

export const getComparison = call({
  method: "GET",
  path: "/api/comparison",
  does: "Holds a release against another one: latency, failures and throughput with verdicts, and what explains the difference.",
  query: z.object(asked).superRefine(orderly),
  answer: comparisonAnswer,
  example: { query: { ...EXAMPLE, ...SPAN } },
});

const comparisonId = z.object({ id: z.string().min(1).max(60) });

export const keepComparison = call({
  method: "POST",
  path: "/api/comparisons",
  does: "Holds a release against another one and keeps the figures as they are, for a report that stays true.",
  body: z
    .object({
      ...asked,
      hold: z
        .array(z.object({ attribute: z.string().min(1).max(300), value: z.string().max(1000).nullable() }))
        .max(8)
        .default([]),
    })
    .superRefine(orderly),
  answer: z.object({ id: z.string() }),
  status: 201,
  did: "kept a comparison",
  about: ({ body }) => `${body.service} ${body.release}`,
  example: { body: { ...EXAMPLE, ...SPAN } },
});

export const getKeptComparison = call({
  method: "GET",
  path: "/api/comparisons/{id}",
  does: "Gives a comparison as it was kept.",
  params: comparisonId,
  answer: z.object({ keptAt: z.number(), who: z.string(), comparison: comparisonAnswer }),
  problems: { 404: "no comparison of that name was kept" },
  example: { params: { id: "none" } },
});

export const getVerdict = call({
  method: "GET",
  path: "/api/releases/{service}/{version}/verdict",
  does: "Says how a release does since it began to serve, for a deployment to wait for: each measure with its verdict.",
  params: z.object({ service: z.string().min(1).max(300), version: release }),
  query: z.object({
    environment: z.string().max(300).default(""),
    against: z.string().max(300).default(""),
    since: moment
      .optional()
      .meta({ description: "Since when it is looked at; else since it began to serve, for six hours at most." }),
  }),
  answer: verdictAnswer,
  problems: { 404: "the release was neither heard nor announced" },
  example: { params: { service: "loans", version: "5.3.0" }, query: { environment: "production" } },
});
