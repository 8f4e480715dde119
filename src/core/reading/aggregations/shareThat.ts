import { NO_UNIT } from "../../unit/unit";
import type { SeriesGroup } from "../grouping";
import { type Context, counted, divided, finish, type MeasureResult } from "../rows";
import type { AggregationKind } from "./definition";

/** No part where there is a whole is a part of 0. */
function partOf(part: number, whole: number): number {
  return Number.isNaN(part) && !Number.isNaN(whole) ? 0 : part;
}

function shareThat(context: Context, groups: SeriesGroup[]): MeasureResult {
  const rows = groups.map((group) => {
    const all = counted(context, group, "count");
    const members = group.members.filter(({ series }) => context.inNumerator(series.attributes));
    const part = counted(context, { ...group, members }, "count");
    for (let i = 0; i < all.values.length; i++)
      all.values[i] = divided(partOf(part.values[i], all.values[i]), all.values[i]);
    all.total = divided(partOf(part.total, all.total), all.total);
    return all;
  });
  return { ...finish(context, rows), unit: NO_UNIT, share: true };
}

export const shareThatPasses: AggregationKind<{ type: "share that" }> = {
  type: "share that",
  said: "share … that",
  begins: ["share"],
  offered: [],
  parse: (words) => (words.take("share") ? { type: "share that" } : null),
  print: () => "share",
  fits: (kind) => kind === "counter" || kind === "histogram" || kind === "summary",
  takesThat: true,
  answer: shareThat,
};
