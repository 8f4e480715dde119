import type { ReadingSeries } from "@/core/reading/result";

/** A series' name at the end of its line: the values of its labels. */
export function seriesName(series: ReadingSeries): string {
  const values = Object.values(series.labels);
  if (values.length === 0) return "all";
  return values.map((value) => (value === null ? "none" : value === "" ? "(empty)" : value)).join(" · ");
}

/** Moves labels apart so that each has `gap` to the next, as little as possible, inside [top, bottom]. */
export function spreadLabels(wanted: readonly number[], gap: number, top: number, bottom: number): number[] {
  const order = wanted.map((y, i) => ({ y, i })).sort((a, b) => a.y - b.y);
  const placed = new Array<number>(wanted.length);
  let last = top - gap;
  for (const one of order) {
    one.y = Math.max(one.y, last + gap);
    last = one.y;
  }
  let next = bottom + gap;
  for (const one of [...order].reverse()) {
    one.y = Math.min(one.y, next - gap);
    next = one.y;
    placed[one.i] = one.y;
  }
  return placed;
}
