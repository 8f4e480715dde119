import { emptyPointSet, type Layout, type PointSet } from "../../src/core/metric/model";
import { Dictionary, type KnownMetric, type KnownSeries } from "../../src/core/otlp/dictionary";
import { seeded } from "../../src/demo/random";

/** Made-up data for the benchmark, the same at every run. */

export const STEP = 15_000;
export const DAY_POINTS = 5760;
export const START = Math.floor(Date.now() / 86400_000) * 86400_000 - 2 * 86400_000;
export const BOUNDS = [0.005, 0.01, 0.025, 0.05, 0.075, 0.1, 0.25, 0.5, 0.75, 1, 2.5, 5, 7.5];
export const RELEASES = 10;

const HISTOGRAM: Layout = { kind: "explicit", bounds: BOUNDS };

export function makeSeries(
  name: string,
  kind: "sum" | "histogram",
  count: number,
): { metric: KnownMetric; series: KnownSeries[] } {
  const dictionary = new Dictionary();
  const metric = dictionary.metric(
    { name, kind, unit: kind === "sum" ? "{loan}" : "s", temporality: "cumulative", monotonic: true },
    "",
  );
  const resources = Array.from({ length: RELEASES }, (_, i) => ({
    "service.name": "bench",
    "service.version": `1.${i}`,
  }));
  const series = Array.from({ length: count }, (_, i) =>
    dictionary.series(metric, {
      resource: resources[i % RELEASES],
      scope: { name: "", version: "" },
      attributes: { number: i },
    }),
  );
  return { metric, series };
}

/** A day of one counter, every 15 s on the clock, with about three resets. */
export function counterDay(series: KnownSeries, seed: number): PointSet {
  const random = seeded(seed);
  const set = emptyPointSet({ kind: "number" }, DAY_POINTS);
  set.series.fill(series.id);
  let level = 0;
  for (let i = 0; i < DAY_POINTS; i++) {
    level = random() < 0.0005 ? 0 : level + Math.floor(random() * 40);
    set.timeMs[i] = START + i * STEP;
    set.columns[0][i] = level;
  }
  return set;
}

/** A day of one histogram of 14 buckets, every 15 s. */
export function histogramDay(series: KnownSeries, seed: number): PointSet {
  const random = seeded(seed);
  const set = emptyPointSet(HISTOGRAM, DAY_POINTS);
  set.series.fill(series.id);
  const width = BOUNDS.length + 1;
  const level = new Array<number>(width).fill(0);
  let sum = 0;
  for (let i = 0; i < DAY_POINTS; i++) {
    for (let c = 0; c < width; c++) {
      const more = Math.floor(random() * random() * 12 * Math.exp(-((c - 5) ** 2) / 8));
      level[c] += more;
      sum += more * (BOUNDS[c] ?? 9) * 0.8;
      set.columns[c][i] = level[c];
    }
    set.timeMs[i] = START + i * STEP;
    set.columns[width][i] = 0.001;
    set.columns[width + 1][i] = 9.5;
    set.columns[width + 2][i] = sum;
  }
  return set;
}
