/** Edits (insert, delete, replace, swap neighbours) that turn one word into another; Damerau 1964, restricted form. */
export function editDistance(a: string, b: string): number {
  let before: number[] = [];
  let above = Array.from({ length: b.length + 1 }, (_, i) => i);
  for (let i = 1; i <= a.length; i++) {
    const row = [i];
    for (let j = 1; j <= b.length; j++) {
      const same = a[i - 1] === b[j - 1];
      let cost = Math.min(above[j] + 1, row[j - 1] + 1, above[j - 1] + (same ? 0 : 1));
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) cost = Math.min(cost, before[j - 2] + 1);
      row.push(cost);
    }
    before = above;
    above = row;
  }
  return above[b.length];
}

/** The candidate that a mistyped word most likely meant, or null where none is near. */
export function nearest(word: string, candidates: readonly string[]): string | null {
  const small = word.toLowerCase();
  let best: string | null = null;
  let least = Math.max(1, Math.floor(word.length / 3)) + 0.5;
  for (const candidate of candidates) {
    const other = candidate.toLowerCase();
    if (Math.abs(other.length - small.length) > least && !other.includes(small)) continue;
    const distance = other.includes(small) && small.length > 2 ? 0.75 : editDistance(small, other);
    if (distance < least) {
      least = distance;
      best = candidate;
    }
  }
  return best;
}
