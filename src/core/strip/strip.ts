import {
  bucketColumns,
  columnCount,
  emptyPointSet,
  isZeroColumn,
  type Layout,
  type PointSet,
  zeroColumn,
} from "../metric/model";
import { ByteReader, ByteWriter, padded, StripError } from "./bytes";
import { readColumn, writeColumn } from "./column";
import { readInts, writeInts } from "./ints";
import { readLayout, writeLayout } from "./layouts";

/**
 * A strip: the points of one metric over a span of time, as columns.
 *
 * ```
 * "T" 1 | bodies at: u32 | entries | points | layouts | clocks | entry table | bodies
 * ```
 * An *entry* is a run of points that share a layout. Its series is one for all of them (merged strips, sorted by
 * series) or a column of its own (fresh strips, where one entry runs across the series of a commit).
 * A *clock* is a pair of time columns (ms, ns) that several entries share: series exported together have equal times.
 * The entry table says where each body starts, so that one series can be cut out of a payload.
 * A body holds: series (if a column), flags (if not all 0), then the layout's columns in their order,
 * the sum last, so that a percentile never decodes it.
 */

const MAGIC = 0x54;
const VERSION = 1;
const MAX_POINTS = 50_000_000;
const MAX_ENTRIES = 10_000_000;

const HAS_SERIES_COLUMN = 1;
const HAS_FLAGS = 2;

/** A pair of time columns. */
export interface Clock {
  count: number;
  /** No time has nanoseconds inside its millisecond. */
  plain: boolean;
  /** Every time is later than the one before. Strips of one commit may hold repeats and points out of order. */
  rising: boolean;
  ms: Float64Array;
  ns: Float64Array;
}

class Clocks {
  readonly all: Clock[] = [];
  private readonly found = new Map<string, number[]>();

  /** The number of an equal clock, or of a clock added for these columns. */
  place(ms: Float64Array, ns: Float64Array): number {
    const count = ms.length;
    const key = `${count} ${ms[0]} ${ms[count - 1]} ${ns[0]}`;
    const same = this.found.get(key);
    if (same) {
      for (const place of same) if (equal(this.all[place].ms, ms) && equal(this.all[place].ns, ns)) return place;
    }
    this.all.push({ count, ms, ns, plain: false, rising: false });
    const place = this.all.length - 1;
    if (same) same.push(place);
    else this.found.set(key, [place]);
    return place;
  }
}

function equal(a: Float64Array, b: Float64Array): boolean {
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false;
  return true;
}

function isRising({ ms, ns }: Clock): boolean {
  for (let i = 1; i < ms.length; i++)
    if (!(ms[i] > ms[i - 1] || (ms[i] === ms[i - 1] && ns[i] > ns[i - 1]))) return false;
  return true;
}

function isConstant(column: Float64Array): boolean {
  for (let i = 1; i < column.length; i++) if (column[i] !== column[0]) return false;
  return true;
}

/** Encodes point sets, one entry each. Sets without points are left out. */
export function encodeStrip(pointSets: readonly PointSet[]): Uint8Array {
  const sets = pointSets.filter((set) => set.count > 0);
  const layouts: Layout[] = [];
  const layoutPlaces = new Map<string, number>();
  const clocks = new Clocks();
  const bodies = new ByteWriter(16 * 1024);
  const table = Array.from({ length: 7 }, () => new Float64Array(sets.length));
  const [series, kinds, layoutOf, timeOf, startOf, counts, sizes] = table;
  let points = 0;

  sets.forEach((set, i) => {
    const key = JSON.stringify(set.layout);
    let layout = layoutPlaces.get(key);
    if (layout === undefined) {
      layout = layouts.push(set.layout) - 1;
      layoutPlaces.set(key, layout);
    }
    const oneSeries = isConstant(set.series);
    const plainFlags = set.flags.every((flag) => flag === 0);
    const from = bodies.length;
    if (!oneSeries) writeInts(bodies, set.series, set.count);
    if (!plainFlags) writeInts(bodies, set.flags, set.count);
    for (const column of set.columns) writeColumn(bodies, column, set.count);
    series[i] = oneSeries ? set.series[0] : 0;
    kinds[i] = (oneSeries ? 0 : HAS_SERIES_COLUMN) | (plainFlags ? 0 : HAS_FLAGS);
    layoutOf[i] = layout;
    timeOf[i] = clocks.place(set.timeMs, set.timeNs);
    startOf[i] = clocks.place(set.startMs, set.startNs);
    counts[i] = set.count;
    sizes[i] = bodies.length - from;
    points += set.count;
  });

  const head = new ByteWriter(4096);
  head.byte(MAGIC);
  head.byte(VERSION);
  head.uint32(0);
  head.varint(sets.length);
  head.varint(points);
  head.varint(layouts.length);
  for (const layout of layouts) writeLayout(head, layout);
  head.varint(clocks.all.length);
  for (const clock of clocks.all) {
    head.varint(clock.count);
    writeInts(head, clock.ms, clock.count);
    writeInts(head, clock.ns, clock.count);
  }
  for (const column of table) writeInts(head, column, sets.length);
  const bodiesAt = head.length;
  head.append(bodies.view());
  const payload = head.finish();
  new DataView(payload.buffer).setUint32(2, bodiesAt, true);
  return payload;
}

const MAX_SHARED = 10_000;
const sharedLayouts = new Map<string, Layout>();

/** One object for equal layouts, so that comparing them is cheap. */
function shared(layout: Layout): Layout {
  const key = JSON.stringify(layout);
  const found = sharedLayouts.get(key);
  if (found) return found;
  if (sharedLayouts.size >= MAX_SHARED) sharedLayouts.clear();
  sharedLayouts.set(key, layout);
  return layout;
}

/** A strip whose head has been read and whose bodies have not. */
export interface OpenStrip {
  payload: Uint8Array;
  /** Reads the payload; used over and over. */
  reader: ByteReader;
  layouts: Layout[];
  clocks: Clock[];
  entries: number;
  points: number;
  /** Per entry: its series, or 0 where the body has a series column. */
  series: Float64Array;
  kinds: Float64Array;
  layoutOf: Float64Array;
  timeOf: Float64Array;
  startOf: Float64Array;
  counts: Float64Array;
  /** Per entry: where its body starts in the payload. */
  offsets: Float64Array;
}

/** Reads a strip's head. @throws StripError where the payload is damaged. */
export function openStrip(bytes: Uint8Array): OpenStrip {
  const payload = padded(bytes);
  const input = new ByteReader(payload);
  if (input.byte() !== MAGIC || input.byte() !== VERSION) throw new StripError("not a strip of a known version");
  const bodiesAt = input.uint32();
  const entries = input.size(MAX_ENTRIES, "entries");
  const points = input.size(MAX_POINTS, "points");
  const layouts: Layout[] = [];
  for (let left = input.size(MAX_ENTRIES, "layouts"); left > 0; left--) layouts.push(shared(readLayout(input)));
  const clocks: Clock[] = [];
  let clockPoints = 0;
  for (let left = input.size(MAX_ENTRIES, "clocks"); left > 0; left--) {
    const count = input.size(points, "times");
    clockPoints += count;
    if (clockPoints > 2 * points) throw new StripError("more times than points");
    const clock = { count, ms: new Float64Array(count), ns: new Float64Array(count), plain: false, rising: false };
    readInts(input, clock.ms, count);
    readInts(input, clock.ns, count);
    clock.plain = isZeroColumn(clock.ns);
    clock.rising = isRising(clock);
    clocks.push(clock);
  }
  if (entries > points) throw new StripError(`${entries} entries for ${points} points`);
  const table = Array.from({ length: 7 }, () => {
    const column = new Float64Array(entries);
    readInts(input, column, entries);
    return column;
  });
  const [series, kinds, layoutOf, timeOf, startOf, counts, offsets] = table;
  if (input.at !== bodiesAt) throw new StripError("head and bodies do not meet");
  let at = bodiesAt;
  let total = 0;
  for (let i = 0; i < entries; i++) {
    const size = offsets[i];
    offsets[i] = at;
    at += size;
    total += counts[i];
    const sound =
      size >= 0 &&
      at <= payload.length &&
      layouts[layoutOf[i]] !== undefined &&
      clocks[timeOf[i]]?.count === counts[i] &&
      clocks[startOf[i]]?.count === counts[i];
    if (!sound) throw new StripError(`entry ${i} is damaged`);
  }
  if (total !== points) throw new StripError(`${total} points, not ${points}`);
  return {
    payload,
    reader: input,
    layouts,
    clocks,
    entries,
    points,
    series,
    kinds,
    layoutOf,
    timeOf,
    startOf,
    counts,
    offsets,
  };
}

/** How much of an entry a reader needs. */
export type Depth = "buckets" | "all";

/** Decodes one entry. With depth "buckets" the sum of a histogram stays all zero. */
export function readEntry(strip: OpenStrip, entry: number, depth: Depth = "all"): PointSet {
  const layout = strip.layouts[strip.layoutOf[entry]];
  const count = strip.counts[entry];
  if (columnCount(layout) * count > MAX_POINTS * 4) throw new StripError(`entry of ${columnCount(layout)} columns`);
  const set = emptyPointSet(layout, count);
  const time = strip.clocks[strip.timeOf[entry]];
  const start = strip.clocks[strip.startOf[entry]];
  const input = new ByteReader(strip.payload, strip.offsets[entry]);
  if (strip.kinds[entry] & HAS_SERIES_COLUMN) readInts(input, set.series, count);
  else set.series.fill(strip.series[entry]);
  if (hasFlags(strip, entry)) readInts(input, set.flags, count);
  set.timeMs.set(time.ms);
  set.timeNs.set(time.ns);
  set.startMs.set(start.ms);
  set.startNs.set(start.ns);
  readColumns(strip, entry, input, set.columns, 0, null, depth);
  return set;
}

type Times = Pick<Clock, "count" | "plain" | "ms" | "ns">;

/** Points of one series; the column that says so is made when it is asked for. */
export class OneSeriesSet implements PointSet {
  workings: unknown = undefined;
  private made: Float64Array | null = null;
  readonly timeMs: Float64Array;
  readonly timeNs: Float64Array;
  readonly startMs: Float64Array;
  readonly startNs: Float64Array;

  constructor(
    private readonly id: number,
    time: Times,
    start: Times,
    readonly layout: Layout,
    readonly count: number,
    readonly flags: Float64Array,
    readonly columns: Float64Array[],
  ) {
    this.timeMs = time.ms;
    this.timeNs = time.plain ? zeroColumn(time.count) : time.ns;
    this.startMs = start.ms;
    this.startNs = start.plain ? zeroColumn(start.count) : start.ns;
  }

  get series(): Float64Array {
    this.made ??= new Float64Array(this.count).fill(this.id);
    return this.made;
  }
}

/** Whether an entry has a column of flags; without one, all are 0. */
export function hasFlags(strip: OpenStrip, entry: number): boolean {
  return (strip.kinds[entry] & HAS_FLAGS) !== 0;
}

/** Decodes the values of an entry of one series, and its flags where it has any, into rows from `at` on. */
export function readValuesInto(
  strip: OpenStrip,
  entry: number,
  columns: Float64Array[],
  flags: Float64Array,
  at: number,
  map: Int32Array | null,
  depth: Depth,
): void {
  const { reader: input } = strip;
  input.at = strip.offsets[entry];
  if (hasFlags(strip, entry)) readInts(input, flags, strip.counts[entry], at);
  readColumns(strip, entry, input, columns, at, map, depth);
}

function readColumns(
  strip: OpenStrip,
  entry: number,
  input: ByteReader,
  columns: Float64Array[],
  at: number,
  map: Int32Array | null,
  depth: Depth,
): void {
  const layout = strip.layouts[strip.layoutOf[entry]];
  const width = columnCount(layout);
  const wanted = depth === "buckets" && bucketColumns(layout) > 0 ? width - 1 : width;
  for (let i = 0; i < wanted; i++) readColumn(input, columns[map ? map[i] : i], strip.counts[entry], at);
}

/** Decodes every entry of a payload. */
export function decodeStrip(payload: Uint8Array): PointSet[] {
  const strip = openStrip(payload);
  return Array.from({ length: strip.entries }, (_, entry) => readEntry(strip, entry));
}

/** The rows of a point set that stand in `rows`, in that order. */
export function takeRows(set: PointSet, rows: Int32Array): PointSet {
  const taken = emptyPointSet(set.layout, rows.length);
  const copy = (from: Float64Array, to: Float64Array) => {
    for (let i = 0; i < rows.length; i++) to[i] = from[rows[i]];
  };
  copy(set.series, taken.series);
  copy(set.timeMs, taken.timeMs);
  copy(set.timeNs, taken.timeNs);
  copy(set.startMs, taken.startMs);
  copy(set.startNs, taken.startNs);
  copy(set.flags, taken.flags);
  set.columns.forEach((column, i) => {
    copy(column, taken.columns[i]);
  });
  return taken;
}

/** The rows of a point set from one up to before another, without copying them. */
export function takeRun(set: PointSet, from: number, to: number): PointSet {
  const part = (column: Float64Array) => column.subarray(from, to);
  return {
    layout: set.layout,
    count: to - from,
    series: part(set.series),
    timeMs: part(set.timeMs),
    timeNs: part(set.timeNs),
    startMs: part(set.startMs),
    startNs: part(set.startNs),
    flags: part(set.flags),
    columns: set.columns.map(part),
  };
}
