/** Characters of a name that a chart has room for. */
export const MAX_LABEL = 18;

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

/** Of marks that lie nearer to each other than `gap`, the latest: what is drawn of very many. In their order. */
export function apart<T>(marks: readonly T[], placeOf: (mark: T) => number, gap: number): T[] {
  const kept = new Set<T>();
  let next = Number.POSITIVE_INFINITY;
  for (const mark of [...marks].sort((a, b) => placeOf(b) - placeOf(a))) {
    if (next - placeOf(mark) < gap) continue;
    kept.add(mark);
    next = placeOf(mark);
  }
  return marks.filter((mark) => kept.has(mark));
}

/**
 * In which row the name of each mark has room, the latest first; -1 where it has none in any. Names of a row stand at
 * least `gap` apart.
 */
export function nameRows(places: readonly number[], gap: number, rows: number): number[] {
  const order = places.map((place, i) => ({ place, i })).sort((a, b) => b.place - a.place);
  const taken = Array.from({ length: rows }, (): number[] => []);
  const result = new Array<number>(places.length).fill(-1);
  for (const { place, i } of order) {
    const row = taken.findIndex((others) => others.every((other) => Math.abs(other - place) >= gap));
    if (row < 0) continue;
    taken[row].push(place);
    result[i] = row;
  }
  return result;
}
