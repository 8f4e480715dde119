import { columnCount } from "../metric/model";
import type { Batch } from "../otlp/batch/batch";
import { columnsSize, headSize } from "../pipeline/size";

/** Adding up what batches hold. */

/** Series, points, and about how many bytes of OTLP they take. */
export interface Amounts {
  series: number;
  points: number;
  bytes: number;
}

interface Tally {
  series: Set<string>;
  points: number;
  bytes: number;
  attributes: Set<string>;
}

/** Adds up what batches hold, by metric. */
export class Tallies {
  readonly metrics = new Map<string, Tally>();

  add(batch: Batch): void {
    const { all, sets } = batch.inColumns();
    const sizes: number[] = [];
    for (const { metric, set } of sets) {
      const numbers = columnsSize(columnCount(set.layout));
      let tally = this.metrics.get(metric.identity.name);
      if (!tally) {
        tally = { series: new Set(), points: 0, bytes: 0, attributes: new Set() };
        this.metrics.set(metric.identity.name, tally);
      }
      tally.points += set.count;
      for (let row = 0; row < set.count; row++) {
        const id = set.series[row];
        if (sizes[id] === undefined) {
          const series = all[id];
          sizes[id] = headSize(series);
          tally.series.add(`${metric.identity.kind} ${metric.identity.unit} ${series.key}`);
          for (const name of Object.keys(series.identity.attributes)) tally.attributes.add(name);
          for (const name of Object.keys(series.identity.resource)) tally.attributes.add(name);
        }
        tally.bytes += sizes[id] + numbers;
      }
    }
  }

  amounts(name?: string): Amounts {
    const some = name === undefined ? [...this.metrics.values()] : [this.metrics.get(name)].filter((one) => !!one);
    return some.reduce(
      (sum, { series, points, bytes }) => ({
        series: sum.series + series.size,
        points: sum.points + points,
        bytes: sum.bytes + bytes,
      }),
      { series: 0, points: 0, bytes: 0 },
    );
  }

  attributes(name: string): string[] {
    return [...(this.metrics.get(name)?.attributes ?? [])].sort();
  }
}
