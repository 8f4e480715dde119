import { isLevel } from "../../metric/model";
import type { SeriesGroup } from "../grouping";
import { type Context, counted, divided, finish, levelRow, type Row } from "../rows";
import { type AggregationKind, plainWord } from "./definition";

function meanRow(context: Context, group: SeriesGroup): Row {
  const sums = counted(context, group, "sum");
  const counts = counted(context, group, "count with sum");
  for (let i = 0; i < sums.values.length; i++) sums.values[i] = divided(sums.values[i], counts.values[i]);
  sums.total = divided(sums.total, counts.total);
  return sums;
}

export const mean: AggregationKind<{ type: "mean" }> = {
  ...plainWord("mean"),
  offered: [{ text: "mean", note: "on average" }],
  fits: (kind, identity) => kind === "histogram" || kind === "summary" || isLevel(identity),
  readsSums: true,
  answer: (context, groups) =>
    finish(
      context,
      groups.map((group) => (context.levels ? levelRow(context, group, "mean") : meanRow(context, group))),
    ),
};
