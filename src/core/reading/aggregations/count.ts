import { counted, countUnit, finish } from "../rows";
import { type AggregationKind, counts, plainWord } from "./definition";

export const count: AggregationKind<{ type: "count" }> = {
  ...plainWord("count"),
  offered: [{ text: "count", note: "how many" }],
  fits: counts,
  answer: (context, groups) => ({
    ...finish(
      context,
      groups.map((group) => counted(context, group, "count")),
    ),
    unit: countUnit(context),
  }),
};
