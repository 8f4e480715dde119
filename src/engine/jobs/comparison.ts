import type { ComparisonAnswer, SideAnswer } from "@/core/api/comparison";
import type { HeldValue } from "@/core/api/held";
import { compareAlike, compareSides } from "@/core/compare/comparison";
import { distanceOf } from "@/core/compare/distance";
import { prepareDistributions } from "@/core/compare/distributions";
import { explain } from "@/core/compare/explain";
import type { ValueSides } from "@/core/compare/mix";
import { asSeen, draws } from "@/core/compare/resample";
import { intervalsOf, minutesOf, sharedMinutes } from "@/core/compare/side";
import { quantile } from "@/core/histogram/quantile";
import { compareCalls, shapeOf, sidesByValue, tellingAttributes } from "@/core/reading/comparing/comparedCalls";
import { predicate } from "@/core/reading/language/conditions";
import { parseCondition } from "@/core/reading/language/parse";
import { newestFirst } from "@/core/release/order";
import { failedCondition } from "@/core/service/callMetrics";
import { announcementsOf } from "@/store/releases/announcements";
import { ladderSettingOf } from "@/store/releases/ladderSettings";
import { baselineFor, type HeardRelease } from "../comparison/chooseBaseline";
import { coursesOf } from "../comparison/courses";
import { measuresOf } from "../comparison/measures";
import { type Pairing, pair, type ReleasePlace } from "../comparison/pairing";
import {
  changedMix,
  chosenMinutes,
  explainFailures,
  nearestEdge,
  shapes,
  valueRow,
  verdictsOf,
} from "../comparison/told";
import { loaderOf, type Surroundings } from "../surroundings";
import { callMetrics, releasesSeen } from "./callsOf";

/** Two releases held against each other. */
export interface ComparisonJob extends ReleasePlace {
  type: "comparison";
  /** "": the same as the candidate's. */
  againstService: string;
  againstEnvironment: string | null;
  /** "" lets the team's setting choose. */
  against: string;
  /** "" lets the team's setting, or the engine, choose. */
  metric: string;
  from: number;
  to: number;
  zone: string;
  /** Only calls with these values. */
  hold: HeldValue[];
  /** The attribute to look at; "" lets the engine choose. */
  by: string;
  /** Whether the figures of latency and failures are all that is wanted. */
  brief: boolean;
}

const SAMPLES = 1000;
/** Samples that verdicts, parts and mixes are judged by. */
const FEWER_SAMPLES = 400;
/** The same is always told the same. */
const SEED = 1;
const P95 = 0.95;

type Answer = ComparisonAnswer;

async function heardIn(
  { client }: Surroundings,
  service: string,
  environment: string,
  span: { from: number; to: number },
  named: readonly string[],
): Promise<HeardRelease[]> {
  return (await releasesSeen(client, service, environment, span, named)).filter(({ release }) => release !== "");
}

/** Holds a release against another one. @throws ReadingError, TooMuchError */
export async function answerComparison(around: Surroundings, job: ComparisonJob): Promise<Answer> {
  const { client } = around;
  const { service, environment, release, from, to, hold } = job;
  const setting = await ladderSettingOf(client, service, environment);
  const found = await callMetrics(client, service, environment);
  const metric =
    [job.metric, setting.metric].map((name) => found.find((one) => one.name === name)).find(Boolean) ?? found[0];
  const failed = setting.failed || (metric ? failedCondition(metric.name) : "");
  const candidate: ReleasePlace = { service, environment, release };
  const other = {
    service: job.againstService || service,
    environment: job.againstEnvironment ?? environment,
  };
  const named = [release, job.against, setting.against];
  const heard = await heardIn(around, service, environment, job, named);
  const heardThere =
    other.service === service && other.environment === environment
      ? heard
      : await heardIn(around, other.service, other.environment, job, named);
  const elsewhere = heardThere !== heard;
  const chosen = elsewhere
    ? (heardThere.find((one) => one.release === (job.against || release)) ?? heardThere[0] ?? null)
    : baselineFor(newestFirst(heard), release, job.against || setting.against);
  const baseline = chosen && { ...other, release: chosen.release };
  const announced = await announcementsOf(client, service, environment);
  const announcement = (name: string) => announced.find((one) => one.release === name) ?? null;
  const sideAnswer = (
    place: ReleasePlace,
    span: { from: number; to: number },
    all: readonly HeardRelease[],
  ): SideAnswer => ({
    ...place,
    ...span,
    servedFrom: all.find((one) => one.release === place.release)?.firstAt ?? null,
    announced: elsewhere && place !== candidate ? null : announcement(place.release),
  });
  const nothing: Answer = {
    candidate: sideAnswer(candidate, { from, to }, heard),
    baseline: baseline && sideAnswer(baseline, { from, to }, heardThere),
    askedAt: Date.now(),
    metric: metric?.name ?? null,
    unit: metric?.unit ?? "",
    failed,
    hold,
    tolerances: setting.tolerances,
    way: null,
    pairing: "",
    minute: 60_000,
    found: null,
    shape: { axis: [], candidate: [], baseline: [], distance: null },
    slower: null,
    slow: null,
    failing: null,
    by: null,
    values: [],
    alike: null,
    differs: null,
    courses: null,
    measures: [],
  };
  if (!metric || !baseline || !chosen) return nothing;
  const loader = loaderOf(around);
  const paired = await pair(loader, metric.name, { candidate, baseline }, hold, { from, to }, chosen.lastAt);
  if (!paired) return nothing;
  await prepareDistributions();
  const spanOf = ({ bounds }: Pairing["candidate"]) => ({ from: bounds[0], to: bounds[bounds.length - 1] });
  const answer: Answer = {
    ...nothing,
    candidate: sideAnswer(candidate, spanOf(paired.candidate), heard),
    baseline: sideAnswer(baseline, spanOf(paired.baseline), heardThere),
    way: paired.way,
    pairing: paired.pairing,
    minute: paired.minute,
  };
  const sides = { candidate: paired.candidate, baseline: paired.baseline };
  const fails = predicate(parseCondition(failed), {});
  const [ours, theirs] = [shapeOf(sides.candidate), shapeOf(sides.baseline)];
  const edges = { candidate: ours.edges, baseline: theirs.edges };
  const held = new Set(hold.map(({ attribute }) => attribute));
  const attributes = job.brief
    ? []
    : tellingAttributes(sides.candidate, sides.baseline).filter((name) => !held.has(name));
  const usual = quantile(theirs.calls, P95);
  const slower = usual ? nearestEdge(edges, usual.value) : 0;
  const all = compareCalls(sides, edges, attributes, slower, fails);
  around.stillWanted();
  const minutes = sharedMinutes(all.candidate, all.baseline);
  if (minutes.length === 0) return answer;
  const calls = chosenMinutes(all, minutes);
  const samples = draws(minutes.length, job.brief ? FEWER_SAMPLES : SAMPLES, SEED);
  const asked = {
    length: paired.minute,
    tolerances: setting.tolerances,
    meant: hold.length === 0 ? (announcement(release)?.share ?? null) : null,
    all: paired.all && Float64Array.from(minutes, (minute) => paired.all![minute]),
  };
  const compared = compareSides(calls.candidate, calls.baseline, samples, asked);
  if (job.brief) return { ...answer, found: compared };
  around.stillWanted();
  const fewer = samples.slice(0, FEWER_SAMPLES);
  const seen = asSeen(minutes.length);
  const slow = explain(calls.slow, calls.attributes, seen, fewer);
  const failing = explainFailures(calls, failed, seen, fewer);
  around.stillWanted();
  const mixed = changedMix(slow);
  const by = attributes.includes(job.by)
    ? job.by
    : (slow?.causes.at(0)?.where[0].attribute ?? mixed ?? attributes.at(0) ?? null);
  const valuesBy = new Map<string, ValueSides[]>();
  for (const name of new Set([by, mixed]))
    if (name !== null)
      valuesBy.set(
        name,
        sidesByValue(sides, edges, name, fails).map((one) => ({
          ...one,
          candidate: minutesOf(one.candidate, minutes),
          baseline: minutesOf(one.baseline, minutes),
        })),
      );
  const alikeBy = (name: string) => {
    const values = valuesBy.get(name) ?? [];
    const alike = values.length > 1 ? compareAlike(values, fewer, asked) : null;
    return alike && { attribute: name, ...alike };
  };
  const alike = by === null ? null : alikeBy(by);
  const ofMix = mixed === null ? null : mixed === by ? alike : alikeBy(mixed);
  around.stillWanted();
  return {
    ...answer,
    found: compared,
    shape: {
      ...shapes(intervalsOf(calls.candidate), intervalsOf(calls.baseline)),
      distance: distanceOf(calls.candidate, calls.baseline),
    },
    slower,
    slow,
    failing,
    by,
    values: (by === null ? [] : (valuesBy.get(by) ?? [])).map(valueRow),
    alike,
    differs: ofMix && verdictsOf(ofMix) !== verdictsOf(compared) ? ofMix.attribute : null,
    courses: await coursesOf(loader, metric.name, failed, { candidate, baseline }, hold, {
      candidate: answer.candidate.servedFrom ?? from,
      baseline: answer.baseline?.servedFrom ?? from,
      until: to,
    }),
    measures: await measuresOf(around, loader, paired, { candidate, baseline }, setting),
  };
}
