import type { PointSet } from "../metric/model";
import type { Arrived } from "./assemble";
import { takeRows } from "./strip";

/**
 * Rewriting strips without losing which arrival was last. What is rewritten as one bears the latest place in the order
 * of arrival of all that went into it; so nothing may go into it that something else, which stays outside, overrules.
 */

function rowsWhere(set: PointSet, keep: (row: number) => boolean): number[] {
  const rows: number[] = [];
  for (let row = 0; row < set.count; row++) if (keep(row)) rows.push(row);
  return rows;
}

function taken(set: PointSet, rows: readonly number[]): PointSet[] {
  if (rows.length === 0) return [];
  return [rows.length === set.count ? set : takeRows(set, Int32Array.from(rows))];
}

/** The points of sets inside [start, end), Unix ms, and those outside. */
export function splitAt(
  sets: readonly PointSet[],
  start: number,
  end: number,
): { inside: PointSet[]; outside: PointSet[] } {
  const within = (set: PointSet) => (row: number) => set.timeMs[row] >= start && set.timeMs[row] < end;
  return {
    inside: sets.flatMap((set) => taken(set, rowsWhere(set, within(set)))),
    outside: sets.flatMap((set) =>
      taken(
        set,
        rowsWhere(set, (row) => !within(set)(row)),
      ),
    ),
  };
}

function keyOf(set: PointSet, row: number): string {
  return `${set.series[row]} ${set.timeMs[row]} ${set.timeNs[row]}`;
}

/** Sets without the points of which others hold a later arrival of the same series and time. */
export function withoutOverruled(sets: readonly Arrived[], others: readonly Arrived[]): Arrived[] {
  const latest = new Map<string, number>();
  for (const { set, arrived } of others) {
    for (let row = 0; row < set.count; row++) {
      const key = keyOf(set, row);
      if (arrived > (latest.get(key) ?? Number.NEGATIVE_INFINITY)) latest.set(key, arrived);
    }
  }
  if (latest.size === 0) return [...sets];
  return sets.flatMap(({ set, arrived }) =>
    taken(
      set,
      rowsWhere(set, (row) => !((latest.get(keyOf(set, row)) ?? Number.NEGATIVE_INFINITY) > arrived)),
    ).map((left) => ({ set: left, arrived })),
  );
}
