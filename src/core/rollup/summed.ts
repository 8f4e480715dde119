import { bucketColumns, FLAG, type PointSet } from "../metric/model";
import { SKIP, startOf, type Track } from "../reading/increase";
import { takeRows } from "../strip/strip";
import { cellEnd } from "./cells";

/**
 * Rolls delta points up: those whose interval lies inside one cell become one point over all of them; one that crosses
 * the bound of a cell stays as it is, so that it can still be laid over both.
 *
 * @param track the points with the intervals that they were found to cover
 */
export function summed({ set, increases, opening }: Track, width: number): PointSet {
  const buckets = bucketColumns(set.layout);
  const rows: number[] = [];
  const froms: number[] = [];
  const into = new Int32Array(set.count).fill(-1);
  let inside = -1;
  let insideEnd = Number.NaN;
  increases.breaks.forEach((row, i) => {
    const first = i === increases.opening;
    if ((first ? opening.rule : increases.rule[i]) === SKIP) return;
    const from = first ? opening.from : increases.from[i];
    const end = cellEnd(set, row, width);
    // Where it begins is for the point before the set to say.
    const unknown = first && Number.isNaN(startOf(set, row));
    if (unknown || from < end - width) {
      into[row] = rows.push(row) - 1;
      froms.push(unknown ? 0 : from);
      return;
    }
    if (insideEnd !== end) {
      inside = rows.push(row) - 1;
      insideEnd = end;
      froms.push(from);
    }
    into[row] = inside;
    rows[inside] = row;
    froms[inside] = Math.min(froms[inside], from);
  });
  const result = takeRows(set, Int32Array.from(rows));
  for (const column of result.columns) column.fill(0);
  if (buckets > 0) {
    result.columns[buckets].fill(Number.POSITIVE_INFINITY);
    result.columns[buckets + 1].fill(Number.NEGATIVE_INFINITY);
  }
  result.flags.fill(FLAG.integer);
  for (let row = 0; row < set.count; row++) if (into[row] >= 0) addRow(set, row, result, into[row]);
  froms.forEach((from, i) => {
    result.startMs[i] = Math.floor(from);
    result.startNs[i] = Math.round((from - Math.floor(from)) * 1e6);
    if (buckets > 0 && result.columns[buckets][i] > result.columns[buckets + 1][i]) {
      result.columns[buckets][i] = 0;
      result.columns[buckets + 1][i] = 0;
    }
  });
  return inTimeOrder(result);
}

/** A merged row takes the place of its last point, which may lie after one that crosses. */
function inTimeOrder(set: PointSet): PointSet {
  const time = (i: number) => set.timeMs[i] + set.timeNs[i] / 1e6;
  const order = Int32Array.from({ length: set.count }, (_, i) => i).sort((a, b) => time(a) - time(b));
  return order.every((row, i) => row === i) ? set : takeRows(set, order);
}

function addRow(set: PointSet, row: number, to: PointSet, at: number): void {
  const buckets = bucketColumns(set.layout);
  const flags = set.flags[row];
  const adding = buckets > 0 ? buckets : to.columns.length;
  let observed = 0;
  for (let c = 0; c < adding; c++) {
    to.columns[c][at] += set.columns[c][row];
    observed += set.columns[c][row];
  }
  if (!(flags & FLAG.integer)) to.flags[at] &= ~FLAG.integer;
  if (buckets === 0) return;
  to.columns[buckets + 2][at] += set.columns[buckets + 2][row];
  to.flags[at] |= flags & FLAG.noSum;
  if (observed <= 0) return;
  to.flags[at] |= flags & (FLAG.noMin | FLAG.noMax);
  if (!(flags & FLAG.noMin)) to.columns[buckets][at] = Math.min(to.columns[buckets][at], set.columns[buckets][row]);
  if (!(flags & FLAG.noMax))
    to.columns[buckets + 1][at] = Math.max(to.columns[buckets + 1][at], set.columns[buckets + 1][row]);
}
