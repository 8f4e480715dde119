import { type Side, sideOf } from "../../compare/side";
import { makeCells } from "../cells";
import { distributionOf } from "../distribution";
import { groupSeries, labelOf } from "../grouping";
import type { LadderReadings } from "../ladder";
import { parseReading } from "../language/parse";
import { metricText } from "../language/quote";
import type { MeasureNode } from "../language/tree";
import { evaluateMeasure } from "../measure";
import type { Source } from "../source";

const RELEASE = "service.version";

/**
 * What each release of a service did, piece of time by piece of time, as sides of comparisons.
 *
 * @param bounds of the pieces, rising
 * @param wanted which releases are
 */
export function sidesByRelease(
  source: Source,
  readings: LadderReadings,
  bounds: Float64Array,
  wanted: (release: string | null) => boolean = () => true,
): Map<string | null, Side> {
  const text = `share of ${metricText(readings.metric)} that ${readings.failed} by release`;
  const metrics = source.metrics.map((metric) => ({
    ...metric,
    series: metric.series.filter(({ attributes }) => wanted(labelOf(attributes, RELEASE))),
  }));
  const own = { ...source, metrics };
  const shares = evaluateMeasure(parseReading(text).expression as MeasureNode, own, bounds, {}).rows;
  const cells = makeCells(bounds, null);
  return new Map(
    groupSeries(own, () => true, [RELEASE]).map((group) => {
      const release = group.labels[RELEASE];
      const distribution = distributionOf(group, cells, source.earliest);
      const histograms = Array.from(cells.first, (_, i) => distribution.step(i) ?? []);
      const share = shares.find(({ labels }) => labels[RELEASE] === release);
      const side = sideOf(histograms, [], distribution.edges());
      const failed = side.calls.map((calls, i) => {
        const part = share?.values[i] ?? Number.NaN;
        return Number.isNaN(part) ? 0 : part * calls;
      });
      return [release, { ...side, failed }];
    }),
  );
}
