import type { MetricIdentity } from "../../metric/model";
import type { Aggregation } from "../language/tree";
import { count } from "./count";
import type { AggregationKind, KindWords, Words } from "./definition";
import { max, min } from "./extremes";
import { last } from "./last";
import { mean } from "./mean";
import { percentile } from "./percentile";
import { rate } from "./rate";
import { shareOverBound, shareUnderBound } from "./shareOfBound";
import { shareThatPasses } from "./shareThat";
import { spread } from "./spread";
import { sum } from "./sum";

/**
 * Every way to sum a metric up, in the order in which they are offered. One is a file here, and a line: from it follow
 * what is parsed and printed, which kinds it goes with, its answer and its unit, what sentences offer, and the table of the
 * documentation. Of those that begin alike, the one with fewer words comes later.
 */
export const AGGREGATIONS = [
  percentile,
  last,
  rate,
  count,
  mean,
  min,
  max,
  sum,
  spread,
  shareUnderBound,
  shareOverBound,
  shareThatPasses,
] as unknown as readonly AggregationKind[];

const KINDS = new Map(AGGREGATIONS.map((kind) => [kind.type, kind]));

/** What kind an aggregation is of. Its parts are to be given that aggregation. */
export function aggregationKind({ type }: Aggregation): AggregationKind {
  return KINDS.get(type)!;
}

/** Words that an aggregation may begin with, for hints. */
export const AGGREGATION_WORDS: readonly string[] = [
  ...new Set(AGGREGATIONS.flatMap(({ begins }) => begins.map((text) => text.split(" ")[0]))),
];

/** The aggregation that the next words say; null where they say none. */
export function parseAggregation(words: Words): Aggregation | null {
  for (const { parse } of AGGREGATIONS) {
    const found = parse(words);
    if (found) return found;
  }
  return null;
}

/** The text of an aggregation; parsing it gives an equal one. */
export function printAggregation(aggregation: Aggregation): string {
  return aggregationKind(aggregation).print(aggregation);
}

/** A kind as it is called on the screen. */
export function kindInWords({ kind, monotonic }: MetricIdentity): KindWords {
  if (kind === "sum") return monotonic ? "counter" : "up-down counter";
  return kind === "exponential" ? "histogram" : kind;
}

/** Whether a metric can answer this aggregation. */
export function canAnswer(aggregation: Aggregation, identity: MetricIdentity): boolean {
  return aggregationKind(aggregation).fits(kindInWords(identity), identity);
}

/** What a metric of this kind can be asked, in words. */
export function askedOf(identity: MetricIdentity): string {
  const all = AGGREGATIONS.filter(({ fits }) => fits(kindInWords(identity), identity)).map(({ said }) => said);
  return all.length > 1 ? `${all.slice(0, -1).join(", ")} or ${all[all.length - 1]}` : all.join();
}

/** What a sentence offers for a metric, with what it means. */
export function offeredFor(identity: MetricIdentity): readonly { text: string; note: string }[] {
  const kind = kindInWords(identity);
  return AGGREGATIONS.filter((one) => one.fits(kind, identity) && (one.offeredFor?.(kind) ?? true)).flatMap(
    ({ offered }) => offered,
  );
}
