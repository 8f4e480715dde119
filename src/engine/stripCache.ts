import type { PointSet } from "@/core/metric/model";
import { columnCount } from "@/core/metric/model";
import { type Depth, entrySet, type OpenStrip, Slab } from "@/core/strip/strip";

/** Bytes that a strip without payload and entries is counted for. */
const BASE = 500;

interface Held {
  set: PointSet;
  depth: Depth;
  bytes: number;
}

/** An opened strip with those of its entries that were decoded. */
export class WarmStrip {
  private readonly sets: (Held | undefined)[] = [];
  private slab = new Slab();
  private places: Map<number, number[]> | null = null;
  bytes: number;
  /** Entries whose bodies are in the payload; null for all. */
  private present: Set<number> | null;

  constructor(
    readonly id: number,
    readonly strip: OpenStrip,
    whole: boolean,
    private readonly grown: (strip: WarmStrip, bytes: number) => void,
  ) {
    const times = strip.clocks.reduce((sum, { count }) => sum + 16 * count, 0);
    this.bytes = BASE + times + strip.entries * 64 + (whole ? strip.payload.length : 0);
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

  /** The points of an entry, decoded at least as deep as asked. */
  set(entry: number, depth: Depth): PointSet {
    const held = this.sets[entry];
    if (held && (held.depth === "all" || depth === "buckets")) return held.set;
    const set = entrySet(this.strip, entry, depth, this.slab);
    const bytes = 8 * set.count * columnCount(set.layout) + 400;
    this.sets[entry] = { set, depth, bytes };
    this.grow(bytes - (held?.bytes ?? 0));
    return set;
  }

  private grow(bytes: number): void {
    this.bytes += bytes;
    this.grown(this, bytes);
  }

  /** Forgets what was decoded. */
  cool(): void {
    this.sets.length = 0;
    this.slab = new Slab();
  }
}

/**
 * Decoded columns of strips, by strip; strips never change. The strips used longest ago are forgotten once all
 * together take more memory than allowed.
 */
export class StripCache {
  private readonly strips = new Map<number, WarmStrip>();
  bytes = 0;

  /** @param most bytes that may be kept */
  constructor(readonly most: number) {}

  /** A strip that is kept, noted as used. */
  get(id: number): WarmStrip | undefined {
    const found = this.strips.get(id);
    if (found) {
      this.strips.delete(id);
      this.strips.set(id, found);
    }
    return found;
  }

  add(id: number, strip: OpenStrip, whole: boolean): WarmStrip {
    const warm = new WarmStrip(id, strip, whole, (grown, bytes) => {
      if (this.strips.get(id) === grown) this.grow(bytes);
    });
    const before = this.strips.get(id);
    if (before) this.bytes -= before.bytes;
    this.strips.set(id, warm);
    this.grow(warm.bytes);
    return warm;
  }

  private grow(bytes: number): void {
    this.bytes += bytes;
    for (const [id, strip] of this.strips) {
      if (this.bytes <= this.most) return;
      this.strips.delete(id);
      this.bytes -= strip.bytes;
      strip.cool();
    }
  }
}
