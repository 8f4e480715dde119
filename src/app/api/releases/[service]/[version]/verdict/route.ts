import { getVerdict } from "@/core/api/calls/comparisons";
import type { ComparisonAnswer } from "@/core/api/comparison";
import { inASentence, p95Of, wordsOf } from "@/core/release/says";
import { HOUR, MINUTE } from "@/core/window/lengths";
import { listReleases } from "@/store/registry/catalogue";
import { announcementsOf } from "@/store/releases/announcements";
import { compared } from "../../../../comparison/compared";
import { database } from "../../../../database";
import { Refusal, serve } from "../../../../serve";

export const dynamic = "force-dynamic";

/** As long as a release is looked at, ms. */
const LONGEST = 6 * HOUR;

type Found = NonNullable<ComparisonAnswer["found"]>;
type Told = Found["latency"][number] | NonNullable<Found["failures"]>;

function judged({ candidate, baseline, change: { bounds: _, ...change } }: Told) {
  return { ...change, candidate: candidate.value, baseline: baseline.value };
}

export const GET = serve(getVerdict, async ({ params: { service, version }, query, asking }) => {
  const { environment, against, since } = query;
  const [releases, announced] = await Promise.all([
    listReleases(database(), service, environment),
    announcementsOf(database(), service, environment),
  ]);
  const heard = releases.find(({ release }) => release === version);
  const place = { service, environment, release: version };
  const to = Date.now();
  if (!heard) {
    if (!announced.some(({ release }) => release === version))
      throw new Refusal(404, {
        title: "No such release",
        detail: `${service} ${version} was neither heard nor announced in ${environment || "an unnamed environment"}`,
      });
    const nothing = { way: null, minutes: 0, latency: null, failures: null, split: null, words: [] };
    const says = `${version} is announced and not heard yet: not enough yet`;
    return {
      ...place,
      against: null,
      heard: false,
      from: to,
      to,
      calls: { candidate: 0, baseline: 0 },
      ...nothing,
      says,
    };
  }
  const from = since ?? Math.max(heard.firstAt - MINUTE, to - LONGEST);
  const usual = { againstService: "", metric: "", zone: "UTC", hold: [], by: "" };
  const answer = await compared({ ...place, ...usual, against, from: Math.min(from, to - MINUTE), to }, asking, true);
  const { found, baseline, unit } = answer;
  const p95 = found && p95Of(found);
  return {
    ...place,
    against: baseline?.release ?? null,
    heard: true,
    way: answer.way,
    from: answer.candidate.from,
    to: answer.candidate.to,
    minutes: found?.minutes ?? 0,
    calls: found?.calls ?? { candidate: 0, baseline: 0 },
    latency: p95 ? judged(p95) : null,
    failures: found?.failures ? judged(found.failures) : null,
    split: found?.split ?? null,
    words: found ? wordsOf(found) : [],
    says:
      found && baseline
        ? inASentence(version, baseline.release, found, unit)
        : baseline
          ? `${version} against ${baseline.release}: no minute in which both had calls; not enough yet`
          : `${version}: there is no other release to hold it against`,
  };
});
