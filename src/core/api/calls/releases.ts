import { z } from "zod";
import { ladderSetting } from "../../release/setting";
import { moment, orderly, place, window, zone } from "../asked";
import { call, done } from "../call";
import { drift } from "../drift";
import { homeAnswer } from "../home";
import { announcementEntry, ladderAnswer, overview, railAnswer, releaseEntry } from "../releases";

/** Services in short, their releases, and what these do. */

const EXAMPLE = { service: "loans", environment: "production" };
const SPAN = { from: 1764000000000, to: 1764003600000 };

export const getOverview = call({
  method: "GET",
  path: "/api/overview",
  does: "Lists the services there are, and where points are received.",
  answer: overview,
});

export const getLadder = call({
  method: "GET",
  path: "/api/ladder",
  does: "Puts the releases of a service side by side: throughput, latency and errors of each.",
  query: z.object({ ...place, metric: z.string().max(300).default(""), ...window, zone }).superRefine(orderly),
  answer: ladderAnswer,
  example: { query: { ...EXAMPLE, ...SPAN } },
});

export const getRail = call({
  method: "GET",
  path: "/api/rail",
  does: "Gives a service's traffic along a window, and when its releases were first heard.",
  query: z.object({ ...place, ...window }).superRefine(orderly),
  answer: railAnswer,
  example: { query: { ...EXAMPLE, ...SPAN } },
});

export const getReleases = call({
  method: "GET",
  path: "/api/releases",
  counts: true,
  does: "Lists the releases of a service.",
  query: z.object(place),
  answer: z.object({
    releases: z.array(releaseEntry).meta({ description: "Those that were heard, the latest first." }),
    announced: z.array(announcementEntry),
  }),
  example: { query: EXAMPLE },
});

const MAX_NOTES = 4000;
const text = (longest: number) => z.string().trim().max(longest).default("");

export const announceRelease = call({
  method: "POST",
  path: "/api/releases",
  does: "Announces a release, before or after it is heard. The same again changes nothing; what is left out stays as it was announced before.",
  right: "announce",
  body: z.object({
    service: z.string().trim().min(1).max(300),
    version: z.string().trim().min(1).max(300),
    environment: text(300),
    at: moment.optional().meta({ description: "When it is rolled out; now where it is left out." }),
    commit: text(100).optional(),
    author: text(200).optional(),
    notes: text(MAX_NOTES).optional(),
    link: z
      .union([
        z.literal(""),
        z.url({ protocol: /^https?$/, error: "an address that begins with http:// or https:// is expected" }),
      ])
      .optional(),
    share: z
      .number()
      .min(0)
      .max(1)
      .nullable()
      .optional()
      .meta({ description: "The part of the traffic that it is meant to have, of 1; null: nothing is meant." }),
  }),
  answer: z.object({ announcement: announcementEntry, changed: z.boolean() }),
  did: null,
  example: { body: { service: "loans", version: "5.3.0", environment: "production", share: 0.2 } },
});

export const getLadderSetting = call({
  method: "GET",
  path: "/api/ladder/setting",
  does: "Says how the team looks at the releases of a service.",
  query: z.object(place),
  answer: z.object({ setting: ladderSetting, changedBy: z.string().nullable(), changedAt: z.number().nullable() }),
  example: { query: EXAMPLE },
});

export const setLadderSetting = call({
  method: "PUT",
  path: "/api/ladder/setting",
  does: "Changes how the team looks at the releases of a service: the histogram, what counts as failed, what each is held against, tolerances, and measures of its own.",
  body: z.object({ ...place, setting: ladderSetting }),
  answer: done,
  did: "changed how releases are looked at",
  about: ({ body }) => body.service,
  example: { body: { ...EXAMPLE, setting: {} } },
});

export const getDrift = call({
  method: "GET",
  path: "/api/drift",
  does: "Says what changed of a service in the last weeks without a release: changes of level, slopes, and memory that leaks.",
  query: z.object(place),
  answer: z.object({
    at: z.number().nullable().meta({ description: "When it was looked for; null: not yet." }),
    drift: drift.nullable(),
  }),
  example: { query: EXAMPLE },
});

export const getHome = call({
  method: "GET",
  path: "/api/home",
  counts: true,
  does: "Lists all services with how their newest release does, the worst first.",
  answer: homeAnswer,
});
