import type { Layout, MetricIdentity } from "../../metric/model";
import { comparable, lenientUnit } from "../../unit/unit";
import { unitText } from "../parts";
import { defineStep } from "./definition";
import { text } from "./sentence";

function scaled(layout: Layout, values: number[], factor: number): { layout: Layout; values: number[] } {
  const times = (value: number) => value * factor;
  switch (layout.kind) {
    case "explicit": {
      // Counts stay; bounds, least, greatest and sum are in the unit.
      const after = layout.bounds.length + 1;
      return {
        layout: { kind: "explicit", bounds: layout.bounds.map(times) },
        values: values.map((value, c) => (c < after ? value : times(value))),
      };
    }
    case "summary":
      return { layout, values: values.map((value, c) => (c === layout.quantiles.length ? value : times(value))) };
    default:
      return { layout, values: values.map(times) };
  }
}

const fits = (identity: MetricIdentity, to: string) => comparable(lenientUnit(identity.unit), lenientUnit(to));

export const unit = defineStep({
  type: "unit",
  lanes: ["metrics"],
  settings: { to: unitText },
  blank: { to: "ms" },
  name: "change the unit",
  does: "values and unit together",
  sentence: () => ["say values in ", text("to", "unit")],
  documented: "values and unit together (not of exponential histograms)",
  values: ({ to }) => {
    const factor = (identity: MetricIdentity) => lenientUnit(identity.unit).scale / lenientUnit(to).scale;
    return {
      changes: (identity) => identity.unit !== to && identity.kind !== "exponential" && fits(identity, to),
      unit: to,
      point: (identity) => {
        const by = factor(identity);
        return ({ layout, columns }, row) =>
          scaled(
            layout,
            columns.map((column) => column[row]),
            by,
          );
      },
      factor,
    };
  },
  unchanged: ({ to }, identity) => {
    const { name, unit: own, kind } = identity;
    if (own === to) return null;
    if (!fits(identity, to))
      return `${name} is in ${own === "" ? "no unit" : own}, which is nothing that ${to} measures`;
    // Its buckets lie at powers of a base, and those of another unit between them.
    return kind === "exponential" ? `${name} is an exponential histogram, whose buckets cannot be moved` : null;
  },
});
