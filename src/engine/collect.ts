import type { PointSet } from "@/core/metric/model";
import type { Part } from "@/core/reading/resolution";
import { type Arrived, assemble } from "@/core/strip/assemble";
import { type Clock, type Depth, readEntry, takeRows } from "@/core/strip/strip";
import { DAY } from "@/core/window/lengths";

import type { StripNote } from "@/store/strips/strips";
import type { Block, CachedStrip, StripCache } from "./stripCache";

/** A strip that a reading uses. */
export interface UsedStrip {
  note: StripNote;
  cached: CachedStrip;
  /** Which of its points count; null where all do. */
  part: Part | null;
}

/** An entry of one series. `rows`: those that count; null for all. */
interface Ref {
  used: UsedStrip;
  entry: number;
  rows: Int32Array | null;
  first: number;
  last: number;
}

/** Which rows of a strip's clocks count, worked out once per clock. */
class Rows {
  private readonly kept = new Map<Clock, Int32Array>();

  constructor(private readonly part: Part) {}

  of(clock: Clock): Int32Array {
    let rows = this.kept.get(clock);
    if (!rows) {
      const found: number[] = [];
      const { width, spans } = this.part;
      for (let i = 0; i < clock.count; i++) if (spans.has(Math.floor(clock.ms[i] / width))) found.push(i);
      rows = Int32Array.from(found);
      this.kept.set(clock, rows);
    }
    return rows;
  }
}

function refsOf(used: UsedStrip, wanted: ReadonlySet<number>, add: (series: number, ref: Ref) => void): void {
  const { strip } = used.cached;
  const filter = used.part ? new Rows(used.part) : null;
  const refer = (series: number, entry: number) => {
    const clock = strip.clocks[strip.timeOf[entry]];
    const rows = filter ? filter.of(clock) : null;
    if (rows?.length === 0) return;
    const first = clock.ms[rows ? rows[0] : 0];
    const last = clock.ms[rows ? rows[rows.length - 1] : clock.count - 1];
    add(series, { used, entry, rows: rows?.length === clock.count ? null : rows, first, last });
  };
  if (wanted.size * 4 < strip.entries) {
    for (const series of wanted) for (const entry of used.cached.entriesOf(series)) refer(series, entry);
    return;
  }
  for (let entry = 0; entry < strip.entries; entry++) {
    const series = strip.series[entry];
    if (series !== 0 && wanted.has(series)) refer(series, entry);
  }
}

function setOf({ used, entry, rows }: Ref, depth: Depth): PointSet {
  const set = readEntry(used.cached.strip, entry, depth);
  return rows ? takeRows(set, rows) : set;
}

function follows(refs: readonly Ref[]): boolean {
  if (refs.some(({ used: { cached }, entry }) => !cached.strip.clocks[cached.strip.timeOf[entry]].rising)) return false;
  for (let i = 1; i < refs.length; i++) if (refs[i].first <= refs[i - 1].last) return false;
  return true;
}

/** Which strips are decoded into one set per series: those of a day and a resolution, settled ones by themselves. */
function blocksOf(strips: readonly UsedStrip[], cache: StripCache): Map<UsedStrip, Block> {
  const groups = new Map<string, UsedStrip[]>();
  for (const used of strips) {
    const { resolution, from, level } = used.note;
    const key = `${resolution} ${Math.floor(from / DAY)} ${level >= 3}`;
    const found = groups.get(key);
    if (found) found.push(used);
    else groups.set(key, [used]);
  }
  const blocks = new Map<UsedStrip, Block>();
  for (const group of groups.values()) {
    const block = cache.block(group.map(({ note }) => note.id));
    for (const used of group) blocks.set(used, block);
  }
  return blocks;
}

/** The points of one series whose entries follow each other: block by block, and of those that are cut entry by entry. */
function inSequence(
  series: number,
  refs: readonly Ref[],
  blocks: ReadonlyMap<UsedStrip, Block>,
  depth: Depth,
): PointSet[] {
  const parts: PointSet[] = [];
  for (let from = 0; from < refs.length; ) {
    const block = blocks.get(refs[from].used)!;
    let to = from + 1;
    if (refs[from].rows) parts.push(setOf(refs[from], depth));
    else {
      while (to < refs.length && !refs[to].rows && blocks.get(refs[to].used) === block) to++;
      const own = refs.slice(from, to).map(({ used, entry }) => ({ strip: used.cached.strip, entry }));
      for (const part of block.parts(series, own, depth)) parts.push(part);
    }
    from = to;
  }
  return parts;
}

/**
 * The points of the wanted series of one metric out of its strips, in time order and each (series, time) once.
 * Entries that follow each other are decoded only when they are asked for, and kept by their strips' cache; repeats,
 * late points and what is still fresh are put in order at once.
 */
export function collect(
  strips: readonly UsedStrip[],
  wanted: ReadonlySet<number>,
  depth: Depth,
  cache: StripCache,
): Map<number, () => PointSet[]> {
  const refs = new Map<number, Ref[]>();
  const across: Arrived[] = [];
  for (const used of strips) {
    refsOf(used, wanted, (series, ref) => {
      const found = refs.get(series);
      if (found) found.push(ref);
      else refs.set(series, [ref]);
    });
    const { strip } = used.cached;
    for (let entry = 0; entry < strip.entries; entry++) {
      if (strip.series[entry] === 0) across.push({ set: used.cached.acrossSeries(entry), arrived: used.note.arrived });
    }
  }
  const freshFrom = new Map<number, number>();
  for (const { set } of across) {
    for (let i = 0; i < set.count; i++) {
      const known = freshFrom.get(set.series[i]);
      if (known === undefined || set.timeMs[i] < known) freshFrom.set(set.series[i], set.timeMs[i]);
    }
  }
  const tangled = new Set<number>();
  const loose: Arrived[] = [...across];
  for (const [series, found] of refs) {
    found.sort((a, b) => a.first - b.first);
    const fresh = freshFrom.get(series) ?? Number.POSITIVE_INFINITY;
    if (follows(found) && fresh > found[found.length - 1].last) continue;
    tangled.add(series);
    for (const ref of found) loose.push({ set: setOf(ref, depth), arrived: ref.used.note.arrived });
  }
  const tails = assemble(across, (series) => wanted.has(series) && !tangled.has(series));
  const blocks = blocksOf(strips, cache);
  const result = new Map<number, () => PointSet[]>();
  for (const [series, found] of refs) {
    if (tangled.has(series)) continue;
    const tail = tails.get(series) ?? [];
    result.set(series, () => [...inSequence(series, found, blocks, depth), ...tail]);
  }
  for (const [series, parts] of tails) if (!result.has(series)) result.set(series, () => parts);
  if (tangled.size > 0) {
    for (const [series, parts] of assemble(loose, (id) => tangled.has(id))) result.set(series, () => parts);
  }
  return result;
}
