import type { ComparisonAnswer } from "@/core/api/comparison";
import { told } from "@/core/compare/comparison";
import { bothKnown, compareLevels } from "@/core/compare/levels";
import { asSeen, draws } from "@/core/compare/resample";
import { reach } from "@/core/compare/sequence";
import { judge } from "@/core/compare/verdict";
import { type Restarts, restartsOf } from "@/core/reading/comparing/restarts";
import { boundsOf, evaluate } from "@/core/reading/evaluate";
import { parseReading } from "@/core/reading/language/parse";
import { quoteText, serviceTests } from "@/core/reading/language/quote";
import { type MeasureNode, measuresOf as measuresIn } from "@/core/reading/language/tree";
import { printWithin } from "@/core/reading/language/within";
import type { Source } from "@/core/reading/source";
import type { LadderColumn, LadderSetting } from "@/core/release/setting";
import { runtimeMeasures } from "@/core/service/runtime";
import { metricNames } from "../jobs/callsOf";
import type { Loader } from "../load";
import type { Surroundings } from "../surroundings";
import { unlessUnreadable } from "../unreadable";
import type { Pairing, ReleasePlace } from "./pairing";

/** Measures beside calls: those of processes, and the team's own. */

const SAMPLES = 400;
const SEED = 1;

/** A reading's value by minute of one release; NaN where there is none. */
async function levels(
  loader: Loader,
  { reading }: LadderColumn,
  place: ReleasePlace,
  bounds: Float64Array,
  every: number,
): Promise<{ unit: string; share: boolean; values: Float64Array } | null> {
  const only = `${serviceTests(place.service, place.environment)} and release is ${quoteText(place.release)}`;
  const tree = parseReading(printWithin(reading, only));
  const [from, to] = [bounds[0], bounds[bounds.length - 1]];
  const sources = new Map<MeasureNode, Source>();
  for (const node of measuresIn(tree.expression)) {
    node.every = null;
    sources.set(node, await loader.source(node, from, to, boundsOf(node, bounds)));
  }
  const result = evaluate(tree, { from, to, every, zone: "UTC", picks: {} }, every, sources);
  const own = result.series.filter(
    ({ labels }) => !labels["service.version"] || labels["service.version"] === place.release,
  );
  // A reading that says more than one thing of a release is no measure of it.
  if (own.length !== 1 || own[0].values.length !== bounds.length - 1) return null;
  const settled = own[0].settledTo ?? Number.POSITIVE_INFINITY;
  const values = Float64Array.from(own[0].values, (value, i) =>
    bounds[i + 1] <= settled ? (value ?? Number.NaN) : Number.NaN,
  );
  return { unit: result.unit, share: result.share, values };
}

type Measure = ComparisonAnswer["measures"][number];

/** What two levels say, by what is good of them. */
function verdictOf(
  good: LadderColumn["good"],
  change: Parameters<typeof judge>[0],
  tolerance: number,
): Measure["verdict"] {
  const { verdict } = judge(change, tolerance, 0, good === "more" ? "less" : "more");
  if (good !== "none") return verdict;
  return verdict === "worse" || verdict === "better" ? "different" : verdict;
}

const HOURS_A_DAY = 24;

/** Starts a day of an instance on both sides; rare as they are, each comes by itself (Poisson). */
function restartMeasure(ours: Restarts | null, theirs: Restarts | null, minutes: number): Measure | null {
  if (!ours || !theirs || ours.count + theirs.count === 0) return null;
  const rate = ({ count, hours }: Restarts) => (count * HOURS_A_DAY) / hours;
  const value = rate(ours) - rate(theirs);
  // Where none was seen, one may have been missed.
  const scatter = Math.hypot(
    ...[ours, theirs].map(({ count, hours }) => (Math.sqrt(Math.max(1, count)) * HOURS_A_DAY) / hours),
  );
  const half = reach(minutes) * scatter;
  const change = { value, low: value - half, high: value + half };
  return {
    name: "starts of an instance a day",
    reading: "how often running counts begin anew",
    unit: "",
    share: false,
    good: "less",
    candidate: rate(ours),
    baseline: rate(theirs),
    change: told(change),
    relative: false,
    verdict: verdictOf("less", change, 0),
  };
}

/** Measures of processes and the team's own, each with its verdict at the tolerance of latency; what cannot be read is left out. */
export async function measuresOf(
  around: Surroundings,
  loader: Loader,
  { candidate, baseline, minute }: Pairing,
  places: { candidate: ReleasePlace; baseline: ReleasePlace },
  { columns, tolerances }: LadderSetting,
): Promise<Measure[]> {
  const { service, environment } = places.candidate;
  const known = await metricNames(around.client, service, environment);
  const restarts = restartMeasure(restartsOf(candidate), restartsOf(baseline), candidate.bounds.length - 1);
  const found: Measure[] = restarts ? [restarts] : [];
  for (const column of [...columns, ...runtimeMeasures(known)]) {
    around.stillWanted();
    const [ours, theirs] = [
      await unlessUnreadable(levels(loader, column, places.candidate, candidate.bounds, minute)),
      await unlessUnreadable(levels(loader, column, places.baseline, baseline.bounds, minute)),
    ];
    if (!ours || !theirs) continue;
    const shared = bothKnown(ours.values, theirs.values);
    const pick = (values: Float64Array) => Float64Array.from(shared, (place) => values[place]);
    const samples = draws(shared.length, SAMPLES, SEED);
    const level = compareLevels(pick(ours.values), pick(theirs.values), asSeen(shared.length), samples);
    if (!level) continue;
    const { change, relative } = level;
    const verdict = relative ? verdictOf(column.good, change, tolerances.latency) : verdictOf(column.good, change, 0);
    found.push({
      ...column,
      unit: ours.unit,
      share: ours.share,
      candidate: level.candidate,
      baseline: level.baseline,
      change: told(change, relative ? -1 : Number.NEGATIVE_INFINITY),
      relative,
      verdict,
    });
  }
  return found;
}
