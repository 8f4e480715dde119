import { isLevel } from "../../metric/model";
import type { SeriesGroup } from "../grouping";
import { boundedRow, type Context, finish, levelRow, type MeasureResult } from "../rows";
import { type AggregationKind, plainWord } from "./definition";

/** Least or greatest observations; where only their bucket is known, its outer bound. */
function extremes(context: Context, groups: SeriesGroup[], end: "min" | "max"): MeasureResult {
  const rows = groups.map((group) => boundedRow(context, group, (found, step) => found.extreme(end, step)));
  const open = (low: number, high: number) => !Number.isNaN(low) && low !== high;
  if (
    rows.some((row) => open(row.totalLow, row.totalHigh) || row.values.some((_, i) => open(row.low![i], row.high![i])))
  )
    context.warnings.push({
      code: "bucket-only",
      message:
        end === "max"
          ? "of some of these the bucket is all that is known: the true value is at most what is shown"
          : "of some of these the bucket is all that is known: the true value is at least what is shown",
    });
  return finish(context, rows);
}

function extreme<E extends "min" | "max">(end: E, note: string): AggregationKind<{ type: E }> {
  return {
    ...plainWord(end),
    offered: [{ text: end, note }],
    fits: (kind, identity) => kind === "histogram" || isLevel(identity),
    answer: (context, groups) =>
      context.levels
        ? finish(
            context,
            groups.map((group) => levelRow(context, group, end)),
          )
        : extremes(context, groups, end),
  };
}

export const min = extreme("min", "least");
export const max = extreme("max", "greatest");
