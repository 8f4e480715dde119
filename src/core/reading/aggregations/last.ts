import { isLevel } from "../../metric/model";
import { finish, levelRow } from "../rows";
import { type AggregationKind, plainWord } from "./definition";

export const last: AggregationKind<{ type: "last" }> = {
  ...plainWord("last"),
  offered: [{ text: "last", note: "latest" }],
  // How high a running total stands is seldom the question.
  offeredFor: (kind) => kind !== "counter",
  fits: (kind, identity) => isLevel(identity) || (kind === "counter" && identity.temporality !== "delta"),
  answer: (context, groups) =>
    finish(
      context,
      groups.map((group) => levelRow(context, group, "last")),
    ),
};
