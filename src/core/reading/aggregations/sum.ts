import { counted, finish, levelRow } from "../rows";
import { type AggregationKind, plainWord } from "./definition";

export const sum: AggregationKind<{ type: "sum" }> = {
  ...plainWord("sum"),
  offered: [{ text: "sum", note: "added up" }],
  // Of a counter it is what count says.
  offeredFor: (kind) => kind !== "counter",
  fits: () => true,
  readsSums: true,
  answer: (context, groups) =>
    finish(
      context,
      groups.map((group) => (context.levels ? levelRow(context, group, "sum") : counted(context, group, "sum"))),
    ),
};
