import { columnCount, type PointSet } from "@/core/metric/model";
import type { Reports } from "@/core/reading/settled";
import { ClockJoiner, decodeTogether, type EntryRef } from "@/core/strip/gather";
import { type Depth, type OpenStrip, readEntry } from "@/core/strip/strip";

/** Bytes that anything is counted for beside its numbers. */
const BASE = 400;

/** What the latest reports of an instance are counted for, with its name. */
const REPORT_BYTES = 400;

/** Something that is kept, with the bytes that it takes. */
abstract class Kept {
  bytes = BASE;
  /** When it was asked for last, Unix ms. */
  usedAt = 0;

  constructor(private readonly grown: (bytes: number) => void) {}

  protected grow(bytes: number): void {
    this.bytes += bytes;
    this.grown(bytes);
  }
}

/** An opened strip with as much of its payload as was fetched. */
export class CachedStrip extends Kept {
  private places: Map<number, number[]> | null = null;
  private across: Map<number, PointSet> | null = null;
  private lastReports: ReadonlyMap<string, Reports> | null = null;
  /** Entries whose bodies are in the payload; null for all. */
  private present: Set<number> | null;

  constructor(
    readonly strip: OpenStrip,
    whole: boolean,
    grown: (bytes: number) => void,
  ) {
    super(grown);
    const times = strip.clocks.reduce((sum, { count }) => sum + 16 * count, 0);
    this.bytes += times + strip.entries * 64 + (whole ? strip.payload.length : 0);
    this.present = whole ? null : new Set();
  }

  /** Entries of a series, in their order in the strip. */
  entriesOf(series: number): readonly number[] {
    if (!this.places) {
      this.places = new Map();
      for (let entry = 0; entry < this.strip.entries; entry++) {
        const id = this.strip.series[entry];
        const found = this.places.get(id);
        if (found) found.push(entry);
        else this.places.set(id, [entry]);
      }
    }
    return this.places.get(series) ?? [];
  }

  /** Whether an entry can be decoded from what was fetched. */
  has(entry: number): boolean {
    return this.present === null || this.present.has(entry);
  }

  /** Takes the bytes of entries [first, after) in. */
  fill(first: number, after: number, bytes: Uint8Array): void {
    this.strip.payload.set(bytes, this.strip.offsets[first]);
    for (let entry = first; entry < after; entry++) this.present?.add(entry);
    this.grow(bytes.length);
  }

  /** When each instance in it reported last, worked out once. */
  reports(find: () => ReadonlyMap<string, Reports>): ReadonlyMap<string, Reports> {
    if (!this.lastReports) {
      this.lastReports = find();
      this.grow(this.lastReports.size * REPORT_BYTES);
    }
    return this.lastReports;
  }

  /** The points of an entry that runs across series, with all columns. */
  acrossSeries(entry: number): PointSet {
    if (!this.has(entry)) throw new Error(`entry ${entry} was not fetched`);
    this.across ??= new Map();
    let set = this.across.get(entry);
    if (!set) {
      set = readEntry(this.strip, entry);
      this.across.set(entry, set);
      this.grow(8 * set.count * (set.columns.length + 6));
    }
    return set;
  }
}

interface Decoded {
  refs: readonly EntryRef[];
  parts: PointSet[];
  depth: Depth;
  bytes: number;
}

/** Decoded columns of the series of some strips that follow each other, such as those of a day: one set per series. */
export class Block extends Kept {
  private readonly found = new Map<number, Decoded[]>();
  private readonly joiner = new ClockJoiner();

  /**
   * The points of a series in some entries of the block's strips that follow each other, decoded at least as deep as
   * asked. Mostly these are all entries of the series; where others lie between them, each run is kept by itself.
   */
  parts(series: number, refs: readonly EntryRef[], depth: Depth): PointSet[] {
    const runs = this.found.get(series) ?? [];
    const held = runs.find((run) => sameRun(run.refs, refs));
    if (held && (held.depth === "all" || depth === "buckets")) return held.parts;
    const parts = decodeTogether(series, refs, depth, this.joiner);
    const bytes = parts.reduce((sum, { count, layout }) => sum + 8 * count * (columnCount(layout) + 1) + BASE, 0);
    this.found.set(series, [...runs.filter((run) => run !== held), { refs, parts, depth, bytes }]);
    this.grow(bytes - (held?.bytes ?? 0));
    return parts;
  }
}

function sameRun(a: readonly EntryRef[], b: readonly EntryRef[]): boolean {
  return a.length === b.length && a[0].entry === b[0].entry && a[0].strip === b[0].strip;
}

/**
 * Strips and decoded columns, by strip and by block; strips never change. What was used longest ago is forgotten once
 * all together take more memory than allowed.
 */
export class StripCache {
  private readonly kept = new Map<string, Kept>();
  bytes = 0;

  /**
   * @param most bytes that may be kept
   * @param clock tells the time, Unix ms
   */
  constructor(
    readonly most: number,
    private readonly clock = Date.now,
  ) {}

  private use(key: string): Kept | undefined {
    const found = this.kept.get(key);
    if (found) {
      found.usedAt = this.clock();
      this.kept.delete(key);
      this.kept.set(key, found);
    }
    return found;
  }

  private keep<T extends Kept>(key: string, make: (grown: (bytes: number) => void) => T): T {
    const made = make((bytes) => {
      if (this.kept.get(key) === made) this.grow(bytes);
    });
    made.usedAt = this.clock();
    this.kept.set(key, made);
    this.grow(made.bytes);
    return made;
  }

  /** A strip that is kept, noted as used. */
  get(id: number): CachedStrip | undefined {
    return this.use(`strip ${id}`) as CachedStrip | undefined;
  }

  add(id: number, strip: OpenStrip, whole: boolean): CachedStrip {
    return this.keep(`strip ${id}`, (grown) => new CachedStrip(strip, whole, grown));
  }

  /** The block of some strips, by their ids in order; begun where it is not kept. */
  block(ids: readonly number[]): Block {
    const key = `block ${ids.join(" ")}`;
    return (this.use(key) as Block | undefined) ?? this.keep(key, (grown) => new Block(grown));
  }

  /** Forgets what was not asked for since a moment, Unix ms. @returns whether there was any */
  forgetUnused(since: number): boolean {
    const before = this.kept.size;
    this.forgetWhile(({ usedAt }) => usedAt < since);
    return this.kept.size < before;
  }

  private grow(bytes: number): void {
    this.bytes += bytes;
    this.forgetWhile(() => this.bytes > this.most);
  }

  /** Forgets from what was used longest ago on. */
  private forgetWhile(goOn: (oldest: Kept) => boolean): void {
    for (const [key, oldest] of this.kept) {
      if (!goOn(oldest)) return;
      this.kept.delete(key);
      this.bytes -= oldest.bytes;
    }
  }
}
