import type { ServiceOutlook } from "@/core/api/home";
import { causeText } from "@/core/release/report";
import { DAY, HOUR } from "@/core/window/lengths";
import type { Surroundings } from "../surroundings";
import { releasesSeen } from "./callsOf";
import { answerComparison } from "./comparison";
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

const NO_REASONS = { cause: null, differs: null };
/** A cause of less of the change than this is not what it comes from. */
const LEAST_PART = 0.3;

/** Where a change for the worse comes from. @param slower whether calls got slower, and not only fail more */
async function reasons(
  around: Surroundings,
  asked: { service: string; environment: string; release: string; against: string; from: number; to: number },
  slower: boolean,
): Promise<{ cause: string | null; differs: string | null }> {
  const usual = {
    againstService: "",
    againstEnvironment: null,
    metric: "",
    zone: "UTC",
    hold: [],
    by: "",
    brief: false,
  };
  const { slow, failing, differs } = await answerComparison(around, { type: "comparison", ...asked, ...usual });
  const found = slower ? slow : failing;
  const cause = found?.causes.at(0);
  const part = cause && found ? cause.part / found.whole : 0;
  return { cause: cause && part > LEAST_PART ? `${mostText(part)} from ${causeText(cause)}` : null, differs };
}

function mostText(part: number): string {
  if (part > 0.9) return "nearly all of it";
  return part > 0.6 ? "most of it" : "much of it";
}

export async function answerOutlook(
  around: Surroundings,
  { service, environment, now }: OutlookJob,
): Promise<ServiceOutlook> {
  const heard = await releasesSeen(around.client, service, environment, { from: now, to: now });
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
  // Where nothing came in the last minutes, the newest release of the window is still the newest.
  const first = ladder.rungs.find(({ recentShare }) => recentShare !== null) ?? ladder.rungs.at(0);
  const change = first?.change;
  const asked = { service, environment, release: first?.release ?? "", against: change?.against ?? "", from, to: now };
  const isWorse = change?.latency?.verdict === "worse" || change?.failures?.verdict === "worse";
  const why = change && isWorse ? await reasons(around, asked, change.latency?.verdict === "worse") : NO_REASONS;
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
          ...why,
        }
      : null,
  };
}
