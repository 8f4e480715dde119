import { columnCount, type Layout, type PointSet, zeroColumn } from "../metric/model";
import { columnMap } from "../metric/ranges";
import { type Arrived, assemble, together } from "./assemble";
import { type Clock, type Depth, hasFlags, OneSeriesSet, type OpenStrip, readEntry, readValuesInto } from "./strip";

/** A strip with its place in the order of arrival. */
export interface ArrivedStrip {
  strip: OpenStrip;
  arrived: number;
}

/** An entry of an opened strip. */
export interface EntryRef {
  strip: OpenStrip;
  entry: number;
}

interface Ref extends ArrivedStrip, EntryRef {
  first: number;
  last: number;
}

function refOf({ strip, arrived }: ArrivedStrip, entry: number): Ref {
  const { ms } = strip.clocks[strip.timeOf[entry]];
  return { strip, arrived, entry, first: ms[0], last: ms[ms.length - 1] };
}

/** One layout that all entries fit, or null. */
function commonLayout(refs: readonly EntryRef[]): Layout | null {
  let layout: Layout | null = null;
  for (const { strip, entry } of refs) {
    const own = strip.layouts[strip.layoutOf[entry]];
    layout = layout ? together(layout, own) : own;
    if (!layout) return null;
  }
  return layout;
}

/** One layout that all entries fit, where they also follow each other in time; else null. */
function sequenceLayout(refs: readonly Ref[]): Layout | null {
  for (let i = 0; i < refs.length; i++) {
    const { strip, entry, first } = refs[i];
    if (!strip.clocks[strip.timeOf[entry]].rising) return null;
    if (i > 0 && first <= refs[i - 1].last) return null;
  }
  return commonLayout(refs);
}

interface Joined {
  clocks: Clock[];
  count: number;
  plain: boolean;
  ms: Float64Array;
  ns: Float64Array;
}

/** Of joined clocks that begin alike, so many are kept: what few series share is not worth the search. */
const MAX_ALIKE = 6;

function clockOf({ strip, entry }: EntryRef, of: "timeOf" | "startOf"): Clock {
  return strip.clocks[strip[of][entry]];
}

/** Clocks laid end to end. Series that are exported together share their clocks, and so what is made of them. */
export class ClockJoiner {
  private readonly kept = new Map<Clock, Joined[]>();

  /** The times, or the starts, of entries that follow each other; `count` in all. */
  join(refs: readonly EntryRef[], of: "timeOf" | "startOf", count: number): Joined {
    const first = clockOf(refs[0], of);
    let known = this.kept.get(first);
    if (!known) {
      known = [];
      this.kept.set(first, known);
    }
    for (const joined of known) if (sameClocks(joined, refs, of)) return joined;
    const clocks = refs.map((ref) => clockOf(ref, of));
    const plain = clocks.every((clock) => clock.plain);
    const ns = plain ? zeroColumn(count) : new Float64Array(count);
    const joined = { clocks, count, plain, ms: new Float64Array(count), ns };
    let at = 0;
    for (const clock of clocks) {
      joined.ms.set(clock.ms, at);
      if (!plain) ns.set(clock.ns, at);
      at += clock.count;
    }
    if (known.length < MAX_ALIKE) known.push(joined);
    return joined;
  }
}

function sameClocks({ clocks }: Joined, refs: readonly EntryRef[], of: "timeOf" | "startOf"): boolean {
  if (clocks.length !== refs.length) return false;
  for (let i = 0; i < refs.length; i++) if (clockOf(refs[i], of) !== clocks[i]) return false;
  return true;
}

/** Decodes the entries of one series end to end, without copies in between. Columns of zeros and times are shared. */
function decodeSequence(
  series: number,
  refs: readonly EntryRef[],
  layout: Layout,
  depth: Depth,
  joiner: ClockJoiner,
): PointSet {
  let count = 0;
  let flagged = false;
  for (const { strip, entry } of refs) {
    count += strip.counts[entry];
    flagged ||= hasFlags(strip, entry);
  }
  const width = columnCount(layout);
  const columns: Float64Array[] = new Array(width);
  for (let i = 0; i < width; i++) columns[i] = new Float64Array(count);
  const flags = flagged ? new Float64Array(count) : zeroColumn(count);
  let at = 0;
  for (const { strip, entry } of refs) {
    const own = strip.layouts[strip.layoutOf[entry]];
    const differs = own !== layout && own.kind === "exponential" && layout.kind === "exponential";
    readValuesInto(strip, entry, columns, flags, at, differs ? columnMap(own, layout) : null, depth);
    at += strip.counts[entry];
  }
  const time = joiner.join(refs, "timeOf", count);
  const start = joiner.join(refs, "startOf", count);
  return new OneSeriesSet(series, time, start, layout, count, flags, columns);
}

/** Entries of one series that follow each other in time, decoded into one set where they have a layout in common. */
export function decodeTogether(
  series: number,
  refs: readonly EntryRef[],
  depth: Depth,
  joiner: ClockJoiner,
): PointSet[] {
  const layout = commonLayout(refs);
  if (layout) return [decodeSequence(series, refs, layout, depth, joiner)];
  return refs.map(({ strip, entry }) => readEntry(strip, entry, depth));
}

/**
 * The points of the wanted series of one metric out of its strips, as `assemble` gives them. Entries of one series
 * are decoded straight into place; only fresh strips, repeats and late points take the longer way.
 *
 * @param across the decoded entries that run across series, with their order of arrival
 */
export function gather(
  strips: readonly ArrivedStrip[],
  across: readonly Arrived[],
  wanted: ReadonlySet<number>,
  depth: Depth,
): Map<number, PointSet[]> {
  const refs = new Map<number, Ref[]>();
  for (const one of strips) {
    const { series, entries } = one.strip;
    for (let entry = 0; entry < entries; entry++) {
      if (!wanted.has(series[entry])) continue;
      const found = refs.get(series[entry]);
      if (found) found.push(refOf(one, entry));
      else refs.set(series[entry], [refOf(one, entry)]);
    }
  }
  const settled = new Map<number, PointSet[]>();
  const joiner = new ClockJoiner();
  const loose: Arrived[] = [...across];
  const inLoose = new Set<number>();
  for (const { set } of across) for (const series of set.series) inLoose.add(series);
  for (const [series, found] of refs) {
    found.sort((a, b) => a.first - b.first);
    const layout = sequenceLayout(found);
    if (layout && !inLoose.has(series)) settled.set(series, [decodeSequence(series, found, layout, depth, joiner)]);
    else if (layout) {
      const arrived = found.reduce((most, ref) => Math.max(most, ref.arrived), 0);
      const fresh = across.every((one) => one.arrived > arrived);
      // Whole sequences may stand as one only where everything loose arrived after them: later than each of them, because
      // what was rewritten of one arrival in two pieces bears the same place twice.
      if (fresh) loose.push({ set: decodeSequence(series, found, layout, depth, joiner), arrived });
      else for (const ref of found) loose.push({ set: readEntry(ref.strip, ref.entry, depth), arrived: ref.arrived });
    } else for (const ref of found) loose.push({ set: readEntry(ref.strip, ref.entry, depth), arrived: ref.arrived });
  }
  for (const [series, parts] of assemble(loose, (series) => wanted.has(series))) settled.set(series, parts);
  return settled;
}
