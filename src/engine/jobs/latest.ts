import type pg from "pg";
import type { LatestAnswer, LatestPoint } from "@/core/api/instruments";
import { type Attributes, bucketColumns, FLAG, type PointSet } from "@/core/metric/model";
import { attributesText } from "@/core/metric/text";
import { type WrittenPoint, writeFamily } from "@/core/openmetrics/write";
import { parseReading } from "@/core/reading/language/parse";
import { metricText } from "@/core/reading/language/quote";
import type { MeasureNode } from "@/core/reading/language/tree";
import { loaderOf, type Surroundings } from "../surroundings";

/** The last point of each series of a metric. */
export interface LatestJob {
  type: "latest";
  metric: string;
  from: number;
  to: number;
}

/** Series whose last points are listed. */
const MAX = 200;

/** What a series says of itself, and of who sends it. */
interface Origin {
  own: Attributes;
  resource: Attributes;
}

async function originsOf(client: pg.PoolClient, ids: readonly number[]): Promise<Map<number, Origin>> {
  const { rows } = await client.query<Origin & { id: string }>(
    `SELECT s.id, s.attributes AS own, r.attributes AS resource FROM series s JOIN resource r ON r.id = s.resource_id
     WHERE s.id = ANY($1::bigint[])`,
    [ids],
  );
  return new Map(rows.map(({ id, ...origin }) => [Number(id), origin]));
}

function pointOf({ own, resource }: Origin, set: PointSet, row: number): LatestPoint {
  const { layout, columns } = set;
  const gone = (set.flags[row] & FLAG.noRecordedValue) !== 0;
  const common = {
    resource: attributesText(resource),
    attributes: attributesText(own),
    at: set.timeMs[row],
    start: set.startMs[row] > 0 ? set.startMs[row] : null,
  };
  if (layout.kind === "number" || layout.kind === "levels") {
    const value = columns[layout.kind === "levels" ? 2 : 0][row];
    return { ...common, value: gone || !Number.isFinite(value) ? null : value, count: null, sum: null };
  }
  if (layout.kind === "summary") {
    const { length } = layout.quantiles;
    return { ...common, value: null, count: columns[length][row], sum: columns[length + 1][row] };
  }
  const buckets = bucketColumns(layout);
  let count = 0;
  for (let c = 0; c < buckets; c++) count += columns[c][row];
  const sum = set.flags[row] & FLAG.noSum ? null : columns[buckets + 2][row];
  return { ...common, value: null, count, sum };
}

/** The last point of each series in a window, newest first, as a table and as text. */
export async function answerLatest(around: Surroundings, { metric, from, to }: LatestJob): Promise<LatestAnswer> {
  const node = parseReading(`sum of ${metricText(metric)}`).expression as MeasureNode;
  // A cut inside a minute makes sure that points are read as they arrived.
  const source = await loaderOf(around).source(node, from, to, Float64Array.of(from, from + 0.5, to), true);
  const found = source.metrics.flatMap(({ identity, series }) =>
    series.flatMap(({ parts }) => {
      const set = parts[parts.length - 1];
      return set && set.count > 0 ? [{ identity, set, row: set.count - 1 }] : [];
    }),
  );
  found.sort((a, b) => b.set.timeMs[b.row] - a.set.timeMs[a.row]);
  const listed = found.slice(0, MAX);
  const origins = await originsOf(
    around.client,
    listed.map(({ set, row }) => set.series[row]),
  );
  const originOf = ({ set, row }: (typeof listed)[number]): Origin =>
    origins.get(set.series[row]) ?? { own: {}, resource: {} };
  const byIdentity = new Map<(typeof found)[number]["identity"], WrittenPoint[]>();
  for (const one of listed) {
    const { identity, set, row } = one;
    const { resource, own } = originOf(one);
    const points = byIdentity.get(identity) ?? [];
    points.push({ resource, attributes: own, set, row });
    byIdentity.set(identity, points);
  }
  const families = [...byIdentity].map(([identity, points]) => writeFamily(identity, "", points));
  return {
    unit: source.metrics[0]?.identity.unit ?? "",
    points: listed.map((one) => pointOf(originOf(one), one.set, one.row)),
    series: found.length,
    heard: found.filter(({ set, row }) => set.timeMs[row] > from && set.timeMs[row] <= to).length,
    exposition: `${families.join("")}# EOF\n`,
  };
}
