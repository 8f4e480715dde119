import type { ServiceOutlook } from "@/core/api/home";
import { DAY, HOUR } from "@/core/window/lengths";
import type { Surroundings } from "../surroundings";
import { releasesSeen } from "./callsOf";
import { answerLadder } from "./ladder";

/** How a service and its newest release do, in short. */
export interface OutlookJob {
  type: "outlook";
  service: string;
  environment: string;
  now: number;
}

/** What is looked at where nothing was released lately, ms. */
const USUAL = 6 * HOUR;
/** So much before a release belongs to it, and no more than so much altogether. */
const BEFORE = 3 * HOUR;
const LONGEST = 7 * DAY;

export async function answerOutlook(
  around: Surroundings,
  { service, environment, now }: OutlookJob,
): Promise<ServiceOutlook> {
  const heard = await releasesSeen(around.client, service, environment);
  const newest = heard.reduce((latest, { firstAt }) => Math.max(latest, firstAt), 0);
  const wanted = Math.min(now - USUAL, newest - BEFORE);
  const from = wanted < now - LONGEST ? now - USUAL : wanted;
  const ladder = await answerLadder(around, {
    type: "ladder",
    service,
    environment,
    metric: "",
    from,
    to: now,
    zone: "UTC",
  });
  const serving = ladder.rungs.flatMap(({ release, recentShare, recentRate }) =>
    recentShare === null || recentRate === null
      ? []
      : [{ release: release ?? "", share: recentShare, rate: recentRate }],
  );
  const first = ladder.rungs.find(({ recentShare }) => recentShare !== null);
  const change = first?.change;
  return {
    from,
    to: now,
    rate: ladder.metric === null ? null : serving.reduce((total, { rate }) => total + rate, 0),
    serving,
    errors: first?.errors ?? null,
    verdict: change
      ? {
          release: first.release ?? "",
          against: change.against ?? "",
          way: change.way,
          time: change.time,
          latency: change.latency,
          failures: change.failures,
        }
      : null,
  };
}
