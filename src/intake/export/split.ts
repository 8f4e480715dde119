import { Batch, itemsOf, type Outgoing } from "@/core/otlp/batch";

/** Cuts content into parts of at most so many points, spans or records. */
export function cut(content: Outgoing, most: number): Outgoing[] {
  if (itemsOf(content) === 0) return [];
  if (itemsOf(content) <= most) return [content];
  const parts = <T>(all: readonly T[]): T[][] =>
    Array.from({ length: Math.ceil(all.length / most) }, (_, i) => all.slice(i * most, (i + 1) * most));
  if (content.signal === "traces") return parts(content.spans).map((spans) => ({ signal: "traces", spans }));
  if (content.signal === "logs") return parts(content.records).map((records) => ({ signal: "logs", records }));
  const { batch } = content;
  const batches: Batch[] = [];
  let room = 0;
  batch.reroute((series, points) => {
    if (points > 0 && room < points) {
      batches.push(new Batch());
      room = most;
    }
    room -= points;
    return [{ batch: batches[batches.length - 1], series }];
  });
  return batches.map((one) => ({ signal: "metrics", batch: one }));
}
