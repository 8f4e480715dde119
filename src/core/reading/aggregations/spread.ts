import { bandsOf, countsIn } from "../../histogram/bands";
import { NO_UNIT } from "../../unit/unit";
import { distributionOf } from "../distribution";
import { ReadingError } from "../language/tree";
import type { Row } from "../rows";
import { type AggregationKind, plainWord } from "./definition";

/** How many observations lie where: a row for each band of values. */
export const spread: AggregationKind<{ type: "spread" }> = {
  ...plainWord("spread"),
  offered: [{ text: "spread", note: "how many lie where" }],
  fits: (kind) => kind === "histogram",
  answer: (context, groups) => {
    const { node, cells, source, warnings, unit } = context;
    if (node.limit)
      throw new ReadingError(
        "a spread has no top: its bands belong together",
        node.from,
        "hold it to what is wanted, with where",
      );
    const all = groups.map((group) => {
      const distribution = distributionOf(group, cells, source.earliest);
      distribution.noticed.warn(node.metric, warnings);
      return { group, distribution, whole: distribution.window() };
    });
    const bands = bandsOf(all.flatMap(({ whole }) => whole ?? []));
    const steps = cells.first.length;
    const rows = all.flatMap(({ group, distribution, whole }) => {
      const own = bands.map(
        (band): Row => ({
          labels: group.labels,
          band,
          values: new Float64Array(steps).fill(Number.NaN),
          low: null,
          high: null,
          total: Number.NaN,
          totalLow: Number.NaN,
          totalHigh: Number.NaN,
          settledTo: Number.POSITIVE_INFINITY,
        }),
      );
      for (let i = 0; i < steps; i++) {
        const found = distribution.step(i);
        if (found)
          countsIn(found, bands).forEach((count, at) => {
            own[at].values[i] = count;
          });
      }
      if (whole)
        countsIn(whole, bands).forEach((count, at) => {
          own[at].total = count;
        });
      return own;
    });
    return { unit: NO_UNIT, share: false, rows, warnings, bandUnit: unit };
  },
};
