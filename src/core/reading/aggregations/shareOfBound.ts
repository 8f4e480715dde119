import type { Interval } from "../../histogram/intervals";
import { type Bounded, shareUnder } from "../../histogram/quantile";
import { comparable, isDimensionless, NO_UNIT, parseUnit } from "../../unit/unit";
import type { SeriesGroup } from "../grouping";
import { ReadingError } from "../language/tree";
import { boundedRow, type Context, finish, fromBuckets, type MeasureResult } from "../rows";
import type { AggregationKind } from "./definition";

type ShareOfBound<T extends "share under" | "share over"> = { type: T; bound: number; unit: string };

function shareOfBound(
  context: Context,
  groups: SeriesGroup[],
  aggregation: ShareOfBound<"share under" | "share over">,
): MeasureResult {
  const { node, unit } = context;
  const given = aggregation.unit === "" ? null : parseUnit(aggregation.unit);
  if (given && !comparable(given, unit) && !(isDimensionless(given) && isDimensionless(unit))) {
    throw new ReadingError(
      `${aggregation.unit} does not compare with ${node.metric}, which is in ${context.source.metrics[0]?.identity.unit || "no unit"}`,
      node.from,
      "give the bound in the metric's kind of unit",
      node.metricPlace.to - node.from,
    );
  }
  const bound = given ? (aggregation.bound * given.scale) / unit.scale : aggregation.bound;
  const over = aggregation.type === "share over";
  const take = (found: Interval[]): Bounded | null => {
    const under = shareUnder(found, bound);
    if (!under || !over) return under;
    return { value: 1 - under.value, low: 1 - under.high, high: 1 - under.low };
  };
  const rows = groups.map((group) => boundedRow(context, group, fromBuckets(take)));
  return { ...finish(context, rows), unit: NO_UNIT, share: true };
}

function shareOf<S extends "under" | "over">(side: S): AggregationKind<ShareOfBound<`share ${S}`>> {
  const type = `share ${side}` as const;
  return {
    type,
    said: type,
    begins: [type],
    offered: side === "under" ? [{ text: "share under 300 ms", note: "which part is below" }] : [],
    parse: (words) => {
      if (!words.take("share", side)) return null;
      const bound = words.number();
      return { type, bound, unit: words.unit() };
    },
    print: ({ bound, unit }) => `${type} ${bound}${unit ? ` ${unit}` : ""}`,
    fits: (kind) => kind === "histogram",
    answer: shareOfBound,
  };
}

export const shareUnderBound = shareOf("under");
export const shareOverBound = shareOf("over");
