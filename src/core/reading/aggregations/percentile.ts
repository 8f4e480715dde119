import { quantile } from "../../histogram/quantile";
import { boundedRow, finish, fromBuckets } from "../rows";
import type { AggregationKind } from "./definition";

export const percentile: AggregationKind<{ type: "percentile"; percent: number }> = {
  type: "percentile",
  said: "a percentile",
  begins: ["p50", "p95", "p99"],
  offered: [
    { text: "p50", note: "the median" },
    { text: "p95", note: "95 % are at most" },
    { text: "p99", note: "99 % are at most" },
  ],
  parse: (words) => {
    const found = /^p(\d+(?:\.\d+)?)$/.exec(words.word);
    if (!found) return null;
    const percent = Number(found[1]);
    if (percent <= 0 || percent >= 100) words.fail("a percentile lies between p0 and p100", "for example p95 or p99.9");
    words.take(words.word);
    return { type: "percentile", percent };
  },
  print: ({ percent }) => `p${percent.toLocaleString("en", { useGrouping: false, maximumFractionDigits: 20 })}`,
  fits: (kind) => kind === "histogram",
  answer: (context, groups, { percent }) => {
    const take = fromBuckets((found) => quantile(found, percent / 100));
    const rows = groups.map((group) => boundedRow(context, group, take));
    const { POSITIVE_INFINITY } = Number;
    if (rows.some((row) => row.totalHigh === POSITIVE_INFINITY || row.high?.includes(POSITIVE_INFINITY)))
      context.warnings.push({
        code: "open-bucket",
        message: `some p${percent} lie in the last bucket, which has no upper bound: they are at least what is shown`,
      });
    return finish(context, rows);
  },
};
