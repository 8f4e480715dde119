import { z } from "zod";
import { orderly, place, window, zone } from "../asked";
import { call } from "../call";
import { ladderAnswer, overview, railAnswer, releaseEntry } from "../releases";

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
  answer: z.object({ releases: z.array(releaseEntry) }),
  example: { query: EXAMPLE },
});
