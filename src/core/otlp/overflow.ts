import { type Attributes, emptyPointSet, FLAG, type Layout, layoutKey, type PointSet } from "../metric/model";
import { fellBelow, startOf } from "../reading/increase";
import { takeRows } from "../strip/strip";
import { DAY, HOUR } from "../window/lengths";
import type { OverflowedPoint } from "./batch/batch";
import type { Dictionary, KnownSeries } from "./dictionary";

/**
 * Where the points of series past the limit go: into one series per metric, service, release and environment, marked
 * `otel.metric.overflow` (OpenTelemetry metrics SDK, "Overflow attribute"). What each of those series adds is added to
 * it, so counts stay whole where their attributes are given up.
 *
 * It is a stream of this process that begins with it. A series whose first point here counts from before then only gives
 * a base; so what was added while no process watched is not in it.
 */

/** The last point of a series past the limit, and when it arrived, Unix ms. */
interface Watched {
  set: PointSet;
  row: number;
  at: number;
}

/** A series that sent nothing for so long is not watched any more, ms. */
const SILENT = HOUR;
/** A sum to which nothing was added for so long is begun anew, as after a restart, ms. */
const UNUSED = DAY;

/** The sum of what went into one overflow series. */
interface Sum {
  series: KnownSeries;
  layout: Layout;
  values: Float64Array;
  timeMs: number;
  timeNs: number;
  /** When something was added last, by our clock. */
  at: number;
}

/** Why a point cannot be added up. */
type Refusal = (point: OverflowedPoint, reason: string) => void;

export class Overflow {
  private readonly watched = new Map<KnownSeries, Watched>();
  private readonly sums = new Map<string, Sum>();
  /** The latest point of series that are not watched any more, Unix ms: what began before it may have been counted. */
  private forgottenUpTo = Number.NEGATIVE_INFINITY;

  /**
   * @param began when this process began, Unix ms
   * @param instance what tells its overflow series from those of other processes
   * @param mostWatched series that may be watched; points of others are refused
   */
  constructor(
    private readonly dictionary: Dictionary,
    private readonly began: number,
    private readonly instance: string,
    private readonly mostWatched = 100_000,
    private readonly now: () => number = Date.now,
  ) {}

  /** How many series are watched, and how many sums are kept. */
  get size(): { watched: number; sums: number } {
    return { watched: this.watched.size, sums: this.sums.size };
  }

  /** Watches a series no more: it stands for itself now. */
  forget(series: KnownSeries): void {
    this.watched.delete(series);
  }

  /** Lets go of what was silent for long; the longest silent stand first. */
  private letGo(): void {
    const now = this.now();
    for (const [series, { set, row, at }] of this.watched) {
      if (now - at < SILENT) break;
      this.watched.delete(series);
      this.forgottenUpTo = Math.max(this.forgottenUpTo, time(set, row));
    }
    for (const [key, { at }] of this.sums) {
      if (now - at < UNUSED) break;
      this.sums.delete(key);
    }
  }

  /**
   * Adds points to their overflow series. What comes back is not noted until `apply` is called.
   *
   * @returns the overflow series with their points of now, and how to note that they are written
   */
  absorb(points: Iterable<OverflowedPoint>, refuse: Refusal): { sums: Sum[]; apply: () => void } {
    this.letGo();
    const at = this.now();
    const last = new Map<KnownSeries, Watched>();
    const changed = new Map<string, Sum>();
    for (const point of points) {
      const { series, set, row } = point;
      const problem = this.problemWith(point, last.size);
      if (problem) {
        refuse(point, problem);
        continue;
      }
      const before = last.get(series) ?? this.watched.get(series) ?? null;
      if (before && time(set, row) <= time(before.set, before.row)) continue;
      const key = this.keyOf(series);
      const sum = changed.get(key) ?? copied(this.sums.get(key)) ?? this.begin(series, set.layout);
      if (layoutKey(sum.layout) !== layoutKey(set.layout)) {
        refuse(point, "its buckets differ from those of the overflow series");
        continue;
      }
      this.add(sum, point, before);
      changed.set(key, sum);
      last.set(series, { set: takeRows(set, Int32Array.of(row)), row: 0, at });
    }
    const apply = () => {
      for (const [series, one] of last) {
        this.watched.delete(series);
        this.watched.set(series, one);
      }
      for (const [key, sum] of changed) {
        this.sums.delete(key);
        this.sums.set(key, { ...sum, at });
      }
    };
    return { sums: [...changed.values()], apply };
  }

  private problemWith({ series, set }: OverflowedPoint, fresh: number): string | null {
    const { kind, monotonic } = series.metric.identity;
    const adds = (kind === "sum" && monotonic) || kind === "histogram";
    if (!adds)
      return `series past the limit of a ${kind === "exponential" ? "exponential histogram" : kind} cannot be added up`;
    if (set.layout.kind !== "number" && set.layout.kind !== "explicit") return "it cannot be added up";
    const known = this.watched.has(series) || this.watched.size + fresh < this.mostWatched;
    return known ? null : "too many series are past the limit";
  }

  private originOf({ identity }: KnownSeries): Attributes {
    const kept = ["service.name", "service.version", "deployment.environment.name", "deployment.environment"];
    return Object.fromEntries(
      kept.flatMap((name) => (name in identity.resource ? [[name, identity.resource[name]]] : [])),
    );
  }

  private keyOf(series: KnownSeries): string {
    const { name, kind, unit, temporality } = series.metric.identity;
    return JSON.stringify([name, kind, unit, temporality, this.originOf(series)]);
  }

  private begin(series: KnownSeries, layout: Layout): Sum {
    const width = emptyPointSet(layout, 1).columns.length;
    const own = this.dictionary.series(series.metric, {
      resource: { ...this.originOf(series), "service.instance.id": this.instance },
      scope: { name: "", version: "" },
      attributes: { "otel.metric.overflow": true },
    });
    return { series: own, layout, values: new Float64Array(width), timeMs: this.began, timeNs: 0, at: this.now() };
  }

  private add(sum: Sum, { series, set, row }: OverflowedPoint, before: Watched | null): void {
    const delta = series.metric.identity.temporality === "delta";
    const start = startOf(set, row);
    const reset =
      !before ||
      set.startMs[row] !== before.set.startMs[before.row] ||
      set.startNs[row] !== before.set.startNs[before.row] ||
      fellBelow(set, row, before.set, before.row);
    const base = delta || reset ? null : before;
    const counts = delta || before || (start >= this.began && start > this.forgottenUpTo);
    // Least and greatest are not kept: they cannot be taken apart by step.
    const adding = set.columns.flatMap((_, c) =>
      set.layout.kind === "number" || c < set.columns.length - 3 || c === set.columns.length - 1 ? [c] : [],
    );
    if (counts && !(set.flags[row] & FLAG.noRecordedValue)) {
      for (const c of adding) sum.values[c] += set.columns[c][row] - (base ? base.set.columns[c][base.row] : 0);
    }
    const [ms, ns] = [set.timeMs[row], set.timeNs[row]];
    if (ms > sum.timeMs || (ms === sum.timeMs && ns > sum.timeNs)) {
      sum.timeMs = ms;
      sum.timeNs = ns;
    }
  }

  /** The point of an overflow series as it stands. */
  pointOf({ series, layout, values, timeMs, timeNs }: Sum): PointSet {
    const set = emptyPointSet(layout, 1);
    set.series[0] = series.id;
    set.timeMs[0] = timeMs;
    set.timeNs[0] = timeNs;
    set.startMs[0] = this.began;
    if (layout.kind !== "number") set.flags[0] = FLAG.noMin | FLAG.noMax;
    values.forEach((value, c) => {
      set.columns[c][0] = value;
    });
    return set;
  }
}

function copied(sum: Sum | undefined): Sum | undefined {
  return sum && { ...sum, values: sum.values.slice() };
}

function time(set: PointSet, row: number): number {
  return set.timeMs[row] + set.timeNs[row] / 1e6;
}
