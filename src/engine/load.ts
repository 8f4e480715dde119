import type pg from "pg";
import { type Attributes, isLevel, type MetricIdentity, type PointSet } from "@/core/metric/model";
import { aggregationKind, canAnswer } from "@/core/reading/aggregations";
import { REACH, reachFor, spanOf } from "@/core/reading/evaluate";
import { chooseMetrics } from "@/core/reading/kinds";
import { type Picks, predicate } from "@/core/reading/language/conditions";
import { nearest } from "@/core/reading/language/nearest";
import { type MeasureNode, ReadingError } from "@/core/reading/language/tree";
import type { Warning } from "@/core/reading/result";
import type { SettledReleases } from "@/core/reading/settled";
import type { MetricSource, Source, SourceSeries } from "@/core/reading/source";
import type { Depth } from "@/core/strip/strip";
import { HOUR } from "@/core/window/lengths";
import { collect } from "./collect";
import { reasonFor } from "./emptiness";
import { fill, openAll, type Plan, plan, pointsIn, seriesIn } from "./fetch";
import { usualDistance } from "./interval";
import { LOOK_BACK, settledReleases } from "./reports";
import type { SeriesCache } from "./seriesCache";
import type { StripCache } from "./stripCache";

/** What a thread of the engine keeps between jobs. */
export interface Caches {
  series: SeriesCache;
  strips: StripCache;
}

/** Says whether the answer is still wanted. @throws where it is not */
export type StillWanted = () => void;

/** How long before a window the usual distance between points is looked for, ms. */
const DISTANCE_BACK = 24 * HOUR;

interface NamedMetric {
  id: number;
  identity: MetricIdentity;
}

interface Needed {
  metrics: NamedMetric[];
  span: { from: number; to: number };
}

interface Loaded {
  metrics: MetricSource[];
  resolutions: number[];
  coarse: boolean;
  /** Strips that cannot be read. */
  unread: number;
  settled: SettledReleases;
}

/** Fetches and decodes what measures read. One instance answers one job and keeps what its measures share. */
export class Loader {
  private readonly fetched = new Map<string, Promise<Loaded>>();
  private readonly needs = new Map<string, Promise<Needed>>();
  private readonly plans = new Map<string, Promise<Plan>>();
  private readonly named = new Map<string, Promise<NamedMetric[]>>();

  constructor(
    private readonly client: pg.PoolClient,
    private readonly caches: Caches,
    private readonly picks: Picks,
    private readonly stillWanted: StillWanted,
  ) {}

  /** The usual distance between a measure's points in a window, ms; 0 where it is not known. */
  async interval(node: MeasureNode, from: number, to: number): Promise<number> {
    const metrics = await this.metricsOf(node);
    const back = node.shifted ?? 0;
    return usualDistance(
      this.client,
      metrics.map(({ id }) => id),
      from - back,
      to - back,
    );
  }

  /**
   * The source of a measure for the window (from, to].
   *
   * @param bounds every moment at which the measure is cut, ascending
   * @param everyKind whether all metrics of the name are wanted, and not only those that the measure can be asked of
   * @throws ReadingError where the metric is not known; TooMuchError
   */
  async source(node: MeasureNode, from: number, to: number, bounds: Float64Array, everyKind = false): Promise<Source> {
    const { metrics, span } = await this.needOf(node, from, to);
    const depth: Depth = aggregationKind(node.aggregation).readsSums ? "all" : "buckets";
    const key = JSON.stringify([node.metric, node.where, span, depth, bounds.length, bounds[1]]);
    let loading = this.fetched.get(key);
    if (!loading) {
      loading = this.load(node, metrics, span, bounds, depth);
      this.fetched.set(key, loading);
    }
    const { metrics: all, resolutions, coarse, unread, settled } = await loading;
    const chosen = everyKind ? { metrics: all, warnings: [] } : chooseMetrics(node.aggregation, all);
    const warnings = [...chosen.warnings];
    if (coarse) {
      warnings.push({
        code: "coarse",
        message: `of a part of this window, ${node.metric} is kept by the ${resolutions.includes(60) ? "minute" : "hour"} only: where a step begins or ends inside one, its counts are laid evenly over it`,
      });
    }
    if (unread > 0)
      warnings.push({
        code: "unreadable",
        message: `${unread} stored ${unread === 1 ? "strip" : "strips"} of ${node.metric} cannot be read and ${unread === 1 ? "is" : "are"} left out; the Store page says why once upkeep has come by`,
      });
    return { metrics: chosen.metrics, earliest: span.from, resolutions, settled, warnings };
  }

  /**
   * The strips that a measure reads, by their numbers: the same ones say the same, because none is ever changed.
   *
   * @throws ReadingError where the metric is not known; TooMuchError
   */
  async stripsOf(node: MeasureNode, from: number, to: number, bounds: Float64Array): Promise<number[]> {
    const { metrics, span } = await this.needOf(node, from, to);
    const { notes } = await this.planOf(metrics, span, bounds);
    return notes.map(({ strip }) => strip.id);
  }

  /** The metrics that a measure reads, and the span of points that matter. */
  private needOf(node: MeasureNode, from: number, to: number): Promise<Needed> {
    const key = JSON.stringify([node, from, to]);
    let found = this.needs.get(key);
    if (!found) {
      found = this.metricsOf(node).then(async (metrics) => ({
        metrics,
        span: spanOf(node, from, to, await this.reach(node, metrics, from, to)),
      }));
      this.needs.set(key, found);
    }
    return found;
  }

  private planOf(
    metrics: readonly NamedMetric[],
    span: { from: number; to: number },
    bounds: Float64Array,
  ): Promise<Plan> {
    const metricIds = metrics.map(({ id }) => id);
    const key = JSON.stringify([metricIds, span, bounds.length, bounds[1]]);
    let found = this.plans.get(key);
    if (!found) {
      found = plan(this.client, { metricIds, ...span, bounds });
      this.plans.set(key, found);
    }
    return found;
  }

  /** How far around a window a measure's points matter: for gauges that seldom report, further than for all else. */
  private async reach(node: MeasureNode, metrics: readonly NamedMetric[], from: number, to: number): Promise<number> {
    const levels = metrics.filter(({ identity }) => isLevel(identity) && canAnswer(node.aggregation, identity));
    if (levels.length === 0) return REACH;
    const ids = levels.map(({ id }) => id);
    const back = node.shifted ?? 0;
    return reachFor(await usualDistance(this.client, ids, from - back - DISTANCE_BACK, to - back));
  }

  /** Why a measure came out empty. */
  whyEmpty(node: MeasureNode, source: Source, window: { from: number; to: number }): Promise<Warning> {
    return reasonFor(this.client, node, this.picks, source, window);
  }

  private metricsOf(node: MeasureNode): Promise<NamedMetric[]> {
    let found = this.named.get(node.metric);
    if (!found) {
      found = this.metricsNamed(node);
      this.named.set(node.metric, found);
    }
    return found;
  }

  private async metricsNamed(node: MeasureNode): Promise<NamedMetric[]> {
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
    metrics: readonly NamedMetric[],
    span: { from: number; to: number },
    bounds: Float64Array,
    depth: Depth,
  ): Promise<Loaded> {
    const { client, caches } = this;
    const chosen = await this.planOf(metrics, span, bounds);
    const strips = await openAll(client, caches.strips, chosen, node.where !== null);
    const unread = chosen.notes.length - strips.length;
    this.stillWanted();
    const attributes = await caches.series.attributesOf(client, seriesIn(strips));
    const passes = predicate(node.where, this.picks);
    const wanted = new Set<number>();
    for (const [id, found] of attributes) {
      this.stillWanted();
      if (passes(found)) wanted.add(id);
    }
    await fill(client, strips, wanted);
    this.stillWanted();
    const sources = metrics.map(({ id, identity }): MetricSource => {
      const own = strips.filter(({ note }) => note.metricId === id);
      const parts = collect(own, wanted, depth, caches.strips);
      const series = [...parts].map(
        ([one, load]) => new LazySeries(attributes.get(one) as Attributes, load, this.stillWanted),
      );
      return { identity, series, points: pointsIn(own, wanted) };
    });
    const resolutions = [...new Set(strips.map(({ note }) => note.resolution))].sort((a, b) => a - b);
    const now = Date.now();
    const settled: SettledReleases =
      span.to < now - LOOK_BACK ? new Map() : settledReleases(strips, attributes, wanted, now);
    return { metrics: sources, resolutions, coarse: chosen.coarse, unread, settled };
  }
}

/** A series whose points are decoded when they are asked for. */
class LazySeries implements SourceSeries {
  constructor(
    readonly attributes: Attributes,
    private readonly load: () => PointSet[],
    private readonly stillWanted: StillWanted,
  ) {}

  get parts(): PointSet[] {
    this.stillWanted();
    return this.load();
  }
}
