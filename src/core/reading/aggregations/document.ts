import { markdownTable } from "../../document/table";
import type { Kind, MetricIdentity } from "../../metric/model";
import { AGGREGATIONS, canAnswer } from ".";

/** Metrics of each kind that readings tell apart. */
const COLUMNS: readonly { head: string; identities: readonly MetricIdentity[] }[] = [
  { head: "counter", identities: [of("sum", "cumulative", true)] },
  { head: "histogram", identities: [of("histogram", "cumulative", true), of("exponential", "delta", true)] },
  { head: "summary", identities: [of("summary", "cumulative", true)] },
  { head: "gauge, up-down counter", identities: [of("gauge", "none", false), of("sum", "cumulative", false)] },
];

function of(kind: Kind, temporality: MetricIdentity["temporality"], monotonic: boolean): MetricIdentity {
  return { name: "m", kind, unit: "", temporality, monotonic };
}

/** Which aggregations go with which kinds, as a table for people. */
export function aggregationsTable(): string {
  const rows = AGGREGATIONS.map((one) => [
    one.type === "percentile" ? "`p…`" : `\`${one.said}\``,
    ...COLUMNS.map(({ identities }) =>
      identities.every((identity) => canAnswer({ type: one.type }, identity)) ? "yes" : "no",
    ),
  ]);
  return markdownTable([["verb", ...COLUMNS.map(({ head }) => head)], ...rows]);
}
