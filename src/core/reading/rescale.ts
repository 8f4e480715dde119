import type { Layout, PointSet } from "../metric/model";
import type { MetricSource, SourceSeries } from "./source";

/** Points in another unit. */

/** One number of the unit for another; dividing keeps decimals that multiplying by a fraction would blur. */
function scaling(factor: number): (value: number) => number {
  if (factor >= 1) return (value) => value * factor;
  const inverse = Math.round(1 / factor);
  const by = Math.abs(inverse * factor - 1) < 1e-12 ? inverse : 1 / factor;
  return (value) => value / by;
}

/** Places of the columns that hold values of the unit; the others are counts and times. */
function valueColumns(layout: Layout, width: number): number[] {
  switch (layout.kind) {
    case "number":
      return [0];
    case "levels":
      return [0, 1, 2, 4];
    case "summary":
      return Array.from({ length: width }, (_, i) => i).filter((i) => i !== layout.quantiles.length);
    default:
      return [width - 3, width - 2, width - 1];
  }
}

function rescale(part: PointSet, one: (value: number) => number): PointSet {
  const { count, series, timeMs, timeNs, startMs, startNs, flags } = part;
  const layout: Layout =
    part.layout.kind === "explicit" ? { kind: "explicit", bounds: part.layout.bounds.map(one) } : part.layout;
  const columns = [...part.columns];
  for (const i of valueColumns(layout, columns.length)) columns[i] = columns[i].map(one);
  return { layout, count, series, timeMs, timeNs, startMs, startNs, flags, columns };
}

class RescaledSeries implements SourceSeries {
  constructor(
    private readonly own: SourceSeries,
    private readonly one: (value: number) => number,
  ) {}

  get attributes() {
    return this.own.attributes;
  }

  get parts(): PointSet[] {
    return this.own.parts.map((part) => rescale(part, this.one));
  }
}

/**
 * A metric's series in another unit; null for exponential histograms, whose buckets lie at powers of a base that no
 * other unit has.
 *
 * @param factor how many of the other unit one of its own is
 */
export function inOtherUnit(metric: MetricSource, unit: string, factor: number): MetricSource | null {
  const identity = { ...metric.identity, unit };
  if (factor === 1) return { ...metric, identity };
  if (identity.kind === "exponential") return null;
  const one = scaling(factor);
  return { ...metric, identity, series: metric.series.map((series) => new RescaledSeries(series, one)) };
}
