import { type Side, sideOf } from "../../compare/side";
import { makeCells } from "../cells";
import { distributionOf } from "../distribution";
import { groupSeries } from "../grouping";
import type { LadderReadings } from "../ladder";
import { parseReading } from "../language/parse";
import { metricText } from "../language/quote";
import type { MeasureNode } from "../language/tree";
import { evaluateMeasure } from "../measure";
import type { Source } from "../source";

/**
 * What each release of a service did, piece of time by piece of time, as sides of comparisons.
 *
 * @param bounds of the pieces, rising
 */
export function sidesByRelease(
  source: Source,
  readings: LadderReadings,
  bounds: Float64Array,
): Map<string | null, Side> {
  const text = `share of ${metricText(readings.metric)} that ${readings.failed} by release`;
  const shares = evaluateMeasure(parseReading(text).expression as MeasureNode, source, bounds, {}).rows;
  const cells = makeCells(bounds, null);
  return new Map(
    groupSeries(source, () => true, ["service.version"]).map((group) => {
      const release = group.labels["service.version"];
      const distribution = distributionOf(group, cells, source.earliest);
      const histograms = Array.from(cells.first, (_, i) => distribution.step(i) ?? []);
      const share = shares.find(({ labels }) => labels["service.version"] === release);
      const side = sideOf(histograms, [], distribution.edges());
      const failed = side.calls.map((calls, i) => {
        const part = share?.values[i] ?? Number.NaN;
        return Number.isNaN(part) ? 0 : part * calls;
      });
      return [release, { ...side, failed }];
    }),
  );
}
