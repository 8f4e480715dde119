import type { LatestAnswer, LatestPoint } from "@/core/api/instruments";
import { type Attributes, bucketColumns, FLAG, type PointSet } from "@/core/metric/model";
import { type WrittenPoint, writeFamily } from "@/core/openmetrics/write";
import { parseReading } from "@/core/reading/parse";
import type { MeasureNode } from "@/core/reading/tree";
import type { LatestJob } from "./jobs";
import type { Loader } from "./load";

/** Series whose last points are listed. */
const MOST = 200;

function textOf(attributes: Attributes): Record<string, string> {
  return Object.fromEntries(
    Object.entries(attributes).map(([key, value]) => [
      key,
      typeof value === "object" ? JSON.stringify(value) : String(value),
    ]),
  );
}

/** Attributes that say who sent a point rather than what it is about. */
function isResource(name: string): boolean {
  return /^(service|telemetry|deployment|host|os|process|container|k8s|cloud)\./.test(name);
}

function split(attributes: Attributes): { resource: Attributes; own: Attributes } {
  const entries = Object.entries(attributes);
  return {
    resource: Object.fromEntries(entries.filter(([name]) => isResource(name))),
    own: Object.fromEntries(entries.filter(([name]) => !isResource(name))),
  };
}

function pointOf(attributes: Attributes, set: PointSet, row: number): LatestPoint {
  const { layout, columns } = set;
  const { resource, own } = split(attributes);
  const gone = (set.flags[row] & FLAG.noRecordedValue) !== 0;
  const common = {
    resource: textOf(resource),
    attributes: textOf(own),
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
export async function answerLatest(loader: Loader, { metric, from, to }: LatestJob): Promise<LatestAnswer> {
  const node = parseReading(`sum of ${JSON.stringify(metric)}`).expression as MeasureNode;
  // A cut inside a minute makes sure that points are read as they arrived.
  const source = await loader.source(node, from, to, Float64Array.of(from, from + 0.5, to));
  const found = source.metrics.flatMap(({ identity, series }) =>
    series.flatMap(({ attributes, parts }) => {
      const set = parts[parts.length - 1];
      return set && set.count > 0 ? [{ identity, attributes, set, row: set.count - 1 }] : [];
    }),
  );
  found.sort((a, b) => b.set.timeMs[b.row] - a.set.timeMs[a.row]);
  const listed = found.slice(0, MOST);
  const byIdentity = new Map<(typeof found)[number]["identity"], WrittenPoint[]>();
  for (const { identity, attributes, set, row } of listed) {
    const { resource, own } = split(attributes);
    const points = byIdentity.get(identity) ?? [];
    points.push({ resource, attributes: own, set, row });
    byIdentity.set(identity, points);
  }
  const families = [...byIdentity].map(([identity, points]) => writeFamily(identity, "", points));
  return {
    unit: source.metrics[0]?.identity.unit ?? "",
    points: listed.map(({ attributes, set, row }) => pointOf(attributes, set, row)),
    series: found.length,
    exposition: `${families.join("")}# EOF\n`,
  };
}
