import { Batch, type Outgoing } from "@/core/otlp/batch/batch";
import { itemsOf } from "@/core/otlp/batch/sideOutputs";
import type { KnownSeries } from "@/core/otlp/dictionary";

/** Content in parts of at most so many items, each exemplar counted as well; one point with more of them goes alone. */
export function cut(content: Outgoing, most: number): Outgoing[] {
  if (itemsOf(content) === 0) return [];
  const parts = <T>(all: readonly T[]): T[][] =>
    Array.from({ length: Math.ceil(all.length / most) }, (_, i) => all.slice(i * most, (i + 1) * most));
  if (content.signal === "traces") return parts(content.spans).map((spans) => ({ signal: "traces", spans }));
  if (content.signal === "logs") return parts(content.records).map((records) => ({ signal: "logs", records }));
  const { batch } = content;
  if (batch.points + batch.exemplars.length <= most) return [content];
  const exemplars = new Map<KnownSeries, number>();
  for (const { series } of batch.exemplars) exemplars.set(series, (exemplars.get(series) ?? 0) + 1);
  // Exemplars go with the first point of their series.
  const homes = new Map<KnownSeries, Batch>();
  const batches: Batch[] = [];
  let room = 0;
  batch.reroute((series, points) => {
    const home = homes.get(series);
    if (points === 0) return home ? [{ batch: home, series }] : [];
    const weight = points + (home ? 0 : (exemplars.get(series) ?? 0));
    if (room < weight) {
      batches.push(new Batch());
      room = most;
    }
    room -= weight;
    const into = batches[batches.length - 1];
    if (!home) homes.set(series, into);
    return [{ batch: into, series }];
  });
  return batches.map((one) => ({ signal: "metrics", batch: one }));
}
