import type { ReadingResult, ReadingSeries } from "../../reading/result";

/** A spread as it is drawn: bands by rising value, groups of labels apart. */

export interface SpreadGroup {
  labels: ReadingSeries["labels"];
  /** By rising value. */
  bands: (ReadingSeries & { band: NonNullable<ReadingSeries["band"]> })[];
}

/** The groups of a spread; none where the answer is of something else. */
export function spreadGroups({ series }: Pick<ReadingResult, "series">): SpreadGroup[] {
  const groups = new Map<string, SpreadGroup>();
  for (const one of series) {
    if (!one.band) continue;
    const key = JSON.stringify(one.labels);
    const group = groups.get(key) ?? { labels: one.labels, bands: [] };
    group.bands.push(one as SpreadGroup["bands"][number]);
    groups.set(key, group);
  }
  const low = ({ band }: SpreadGroup["bands"][number]) => band.low ?? Number.NEGATIVE_INFINITY;
  for (const { bands } of groups.values()) bands.sort((a, b) => low(a) - low(b));
  return [...groups.values()];
}

/** A band's ends on a drawing: an open end is as far away as the band beside it is wide. */
export function drawnEnds(bands: readonly NonNullable<ReadingSeries["band"]>[]): { low: number; high: number }[] {
  return bands.map(({ low, high }, i) => {
    const [before, after] = [bands[i - 1], bands[i + 1]];
    if (low === null && high === null) return { low: 0, high: 1 };
    if (low === null) {
      const width = after?.low != null && after.high != null ? after.high - after.low : Math.abs(high!) || 1;
      return { low: high! > 0 ? high! / 2 : high! - width, high: high! };
    }
    if (high === null) {
      const factor = before?.low != null && before.low > 0 && before.high !== null ? before.high / before.low : 2;
      return { low, high: low > 0 ? low * factor : low + 1 };
    }
    return { low, high };
  });
}
