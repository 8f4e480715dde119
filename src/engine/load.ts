import type pg from "pg";
import type { Attributes, MetricIdentity } from "@/core/metric/model";
import { type Picks, predicate } from "@/core/reading/conditions";
import { spanOf } from "@/core/reading/evaluate";
import { canAnswer } from "@/core/reading/measure";
import { nearest } from "@/core/reading/nearest";
import type { Warning } from "@/core/reading/result";
import type { MetricSource, Source } from "@/core/reading/source";
import { type MeasureNode, ReadingError } from "@/core/reading/tree";
import type { Arrived } from "@/core/strip/assemble";
import { gather } from "@/core/strip/gather";
import { type Depth, openStrip, readEntry } from "@/core/strip/strip";
import { comparable, lenientUnit } from "@/core/unit/unit";
import { readStrips } from "@/store/strips";
import type { SeriesCache } from "./seriesCache";

/** Fetches and decodes what measures read. One instance answers one job and keeps what its measures share. */
export class Loader {
  private readonly fetched = new Map<string, Promise<MetricSource[]>>();

  constructor(
    private readonly client: pg.PoolClient,
    private readonly cache: SeriesCache,
    private readonly picks: Picks,
  ) {}

  /** The source of a measure for the window (from, to]. @throws ReadingError where the metric is not known */
  async source(node: MeasureNode, from: number, to: number): Promise<Source> {
    const span = spanOf(node, from, to);
    const metrics = await this.metricsNamed(node);
    const depth: Depth = ["sum", "mean"].includes(node.how.type) ? "all" : "buckets";
    const key = JSON.stringify([node.metric, node.where, span, depth]);
    let loading = this.fetched.get(key);
    if (!loading) {
      loading = this.load(node, metrics, span, depth);
      this.fetched.set(key, loading);
    }
    const loaded = (await loading).filter(({ series }) => series.length > 0);
    const warnings: Warning[] = [];
    const source = { metrics: sameUnit(node, loaded, warnings), earliest: span.from, warnings };
    if (source.metrics.length === 0) {
      // Even without points, a measure that the metric cannot answer is the reader's first surprise.
      const askable = metrics.some(({ identity }) => canAnswer(node.how, identity));
      if (!askable) source.metrics = metrics.map(({ identity }) => ({ identity, series: [] }));
      warnings.push(await this.whyEmpty(node, metrics, span));
    }
    return source;
  }

  private async metricsNamed(node: MeasureNode): Promise<{ id: number; identity: MetricIdentity }[]> {
    const { rows } = await this.client.query<MetricIdentity & { id: number }>(
      "SELECT id, name, kind, unit, temporality, monotonic FROM metric WHERE name = $1 ORDER BY id DESC",
      [node.metric],
    );
    if (rows.length > 0) return rows.map(({ id, ...identity }) => ({ id, identity }));
    const names = await this.client.query<{ name: string }>("SELECT DISTINCT name FROM metric LIMIT 20000");
    const near = nearest(
      node.metric,
      names.rows.map(({ name }) => name),
    );
    throw new ReadingError(
      `no metric named ${node.metric} has arrived`,
      node.metricPlace.from,
      near
        ? `did you mean ${near}?`
        : names.rows.length === 0
          ? "nothing has arrived yet"
          : "type a part of its name to see what there is",
      node.metricPlace.to - node.metricPlace.from,
      near,
    );
  }

  private async load(
    node: MeasureNode,
    metrics: { id: number; identity: MetricIdentity }[],
    span: { from: number; to: number },
    depth: Depth,
  ): Promise<MetricSource[]> {
    const rows = await readStrips(
      this.client,
      metrics.map(({ id }) => id),
      span.from,
      span.to,
    );
    const strips = rows.map((row) => ({ ...row, strip: openStrip(row.payload) }));
    const across = new Map<number, Arrived[]>(metrics.map(({ id }) => [id, []]));
    const ids = new Set<number>();
    for (const { metricId, arrived, strip } of strips) {
      for (let entry = 0; entry < strip.entries; entry++) {
        if (strip.series[entry] !== 0) {
          ids.add(strip.series[entry]);
          continue;
        }
        const set = readEntry(strip, entry, depth);
        across.get(metricId)!.push({ set, arrived });
        for (const id of set.series) ids.add(id);
      }
    }
    const attributes = await this.cache.attributesOf(this.client, ids);
    const passes = predicate(node.where, this.picks);
    const wanted = new Set<number>();
    for (const [id, found] of attributes) if (passes(found)) wanted.add(id);
    return metrics.map(({ id, identity }) => {
      const parts = gather(
        strips.filter(({ metricId }) => metricId === id),
        across.get(id)!,
        wanted,
        depth,
      );
      return {
        identity,
        series: [...parts].map(([series, found]) => ({
          attributes: attributes.get(series) as Attributes,
          parts: found,
        })),
      };
    });
  }

  /** Says why nothing was found: never, not in this window, or not with these tests. */
  private async whyEmpty(
    node: MeasureNode,
    metrics: { id: number }[],
    span: { from: number; to: number },
  ): Promise<Warning> {
    const ids = metrics.map(({ id }) => id);
    const { rows } = await this.client.query<{ latest: string | null; here: string }>(
      `SELECT max(t_to) AS latest, count(*) FILTER (WHERE t_from <= $3 AND t_to >= $2) AS here
       FROM strip WHERE metric_id = ANY($1::int[]) AND resolution = 0`,
      [ids, Math.floor(span.from), Math.ceil(span.to)],
    );
    const { latest, here } = rows[0];
    if (Number(here) > 0 && node.where) {
      return {
        code: "no-match",
        message: `${node.metric} arrived in this window, but no series of it passes the where tests`,
      };
    }
    if (latest === null)
      return { code: "no-points", message: `${node.metric} is known, but none of its points is stored` };
    return {
      code: "no-points",
      message: `nothing arrived for ${node.metric} in this window; its last point is from ${new Date(Number(latest)).toISOString()}`,
    };
  }
}

/** Keeps the metrics whose values can stand side by side, in the unit of the one that was defined last. */
function sameUnit(node: MeasureNode, metrics: MetricSource[], warnings: Warning[]): MetricSource[] {
  if (metrics.length < 2) return metrics;
  const main = lenientUnit(metrics[0].identity.unit);
  return metrics.flatMap((metric) => {
    const unit = lenientUnit(metric.identity.unit);
    if (comparable(unit, main) && unit.scale === main.scale) return [metric];
    if (comparable(unit, main) && (metric.identity.kind === "gauge" || metric.identity.kind === "sum")) {
      const factor = unit.scale / main.scale;
      const series = metric.series.map((one) => ({
        ...one,
        parts: one.parts.map((part) => ({ ...part, columns: [part.columns[0].map((value) => value * factor)] })),
      }));
      return [{ identity: { ...metric.identity, unit: metrics[0].identity.unit }, series }];
    }
    warnings.push({
      code: "mixed-units",
      message: `${node.metric} also arrived in ${metric.identity.unit || "no unit"} (${metric.series.length} series); these are left out beside ${metrics[0].identity.unit || "no unit"}`,
    });
    return [];
  });
}
