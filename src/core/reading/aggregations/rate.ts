import { divideUnits, parseUnit } from "../../unit/unit";
import { endedAt } from "../cells";
import { counted, countUnit, finish, settledOf } from "../rows";
import { type AggregationKind, counts, plainWord } from "./definition";

const SECOND = parseUnit("s");

export const rate: AggregationKind<{ type: "rate" }> = {
  ...plainWord("rate"),
  offered: [{ text: "rate", note: "per second" }],
  fits: counts,
  answer: (context, groups) => {
    // What is covered of the step that is not over yet is the time that its calls are divided by.
    const rows = groups.map((group) => {
      const cells = endedAt(context.cells, settledOf(context.source, group));
      const { bounds, windowStart, windowEnd } = cells;
      const windowSeconds = (bounds[windowEnd] - bounds[windowStart]) / 1000;
      const row = counted({ ...context, cells }, group, "count");
      for (let i = 0; i < row.values.length; i++) row.values[i] /= cells.seconds[i];
      row.total /= windowSeconds;
      return row;
    });
    return { ...finish(context, rows), unit: divideUnits(countUnit(context), SECOND) };
  },
};
