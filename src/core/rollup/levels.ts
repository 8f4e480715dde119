import { emptyPointSet, FLAG, type Layout, type PointSet } from "../metric/model";
import { type Told, told } from "../reading/gauge";
import { cellEnd } from "./cells";

const ROLLED: Layout = { kind: "levels" };
const SINGLE: Layout = { kind: "number" };

/** A row and where it came from. */
interface Place {
  part: PointSet;
  row: number;
}

/** Rows [first, after) that become one. */
interface Group {
  first: number;
  after: number;
}

/** Rows of one cell together; a row without a value by itself, since it ends a hold. */
function groupsOf({ count, last }: Told, ends: readonly number[]): Group[] {
  const groups: Group[] = [];
  for (let i = 0; i < count; i++) {
    const open = groups[groups.length - 1];
    const joins = open && !Number.isNaN(last[i]) && !Number.isNaN(last[i - 1]) && ends[i] === ends[i - 1];
    if (joins) open.after = i + 1;
    else groups.push({ first: i, after: i + 1 });
  }
  return groups;
}

/** Joins rows: what each held between its own points, and what the last of each held until the next began. */
function joinRows(rows: Told, { first, after }: Group, to: PointSet, at: number): void {
  let min = rows.min[first];
  let max = rows.max[first];
  let held = rows.held[first];
  let weighted = held > 0 ? rows.weighted[first] : 0;
  for (let i = first + 1; i < after; i++) {
    const between = Math.min(rows.first[i] - rows.time[i - 1], rows.hold[i - 1]);
    held += between + rows.held[i];
    weighted += between * rows.last[i - 1] + (rows.held[i] > 0 ? rows.weighted[i] : 0);
    min = Math.min(min, rows.min[i]);
    max = Math.max(max, rows.max[i]);
  }
  // How long a value holds that too few points tell of is for the rows around it to say.
  const hold = rows.known ? rows.hold[after - 1] : Number.NaN;
  [min, max, rows.last[after - 1], held, weighted, hold].forEach((value, c) => {
    to.columns[c][at] = value;
  });
}

/**
 * Rolls a gauge up: per cell its least, greatest and last value, and for how long which values held, so that means
 * weighted by time come out as from all points. Where no cell has more than one point, the points stay as they are.
 */
export function levelRows(parts: readonly PointSet[], width: number): PointSet[] {
  const rows = told(parts);
  const places: Place[] = parts.flatMap((part) => Array.from({ length: part.count }, (_, row) => ({ part, row })));
  const ends = places.map(({ part, row }) => cellEnd(part, row, width));
  const groups = groupsOf(rows, ends);
  if (groups.length === rows.count) return [...parts];
  const result: PointSet[] = [];
  for (let from = 0; from < groups.length; ) {
    const valued = !Number.isNaN(rows.last[groups[from].first]);
    let to = from + 1;
    while (to < groups.length && Number.isNaN(rows.last[groups[to].first]) !== valued) to++;
    const set = emptyPointSet(valued ? ROLLED : SINGLE, to - from);
    groups.slice(from, to).forEach((group, at) => {
      const begin = places[group.first];
      const end = places[group.after - 1];
      set.series[at] = end.part.series[end.row];
      set.timeMs[at] = end.part.timeMs[end.row];
      set.timeNs[at] = end.part.timeNs[end.row];
      if (valued) {
        const rolled = begin.part.layout.kind === "levels";
        set.startMs[at] = (rolled ? begin.part.startMs : begin.part.timeMs)[begin.row];
        set.startNs[at] = (rolled ? begin.part.startNs : begin.part.timeNs)[begin.row];
        joinRows(rows, group, set, at);
      } else {
        set.flags[at] = end.part.flags[end.row] | FLAG.noRecordedValue;
        set.columns[0][at] = end.part.columns[0][end.row];
      }
    });
    result.push(set);
    from = to;
  }
  return result;
}
