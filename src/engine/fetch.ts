import type pg from "pg";
import { TooMuchError } from "@/core/reading/distribution";
import { Choice, chooseStrips, type Part } from "@/core/reading/resolution";
import { StripError } from "@/core/strip/bytes";
import { type OpenStrip, openStrip } from "@/core/strip/strip";
import { HOURS, MINUTES, RAW } from "@/store/database/partitions";
import { listStrips, type Piece, readPayloads, readPieces, type StripNote } from "@/store/strips/strips";
import type { UsedStrip } from "./collect";
import type { CachedStrip, StripCache } from "./stripCache";

/** Fetches the strips that a reading needs, and of them no more than it needs. */

/** Bytes of payloads that one reading may fetch. */
const MAX_BYTES = 512 * 1024 * 1024;
/** Strips that one reading may use. */
const MAX_STRIPS = 100_000;
/** Payloads from this size on are looked into before they are fetched whole, where only some series are wanted. */
const WORTH_A_LOOK = 48 * 1024;
/** Bytes between two wanted runs that are rather read than skipped. */
const SMALL_GAP = 4096;

/** What a reading needs of a metric. Times in Unix ms. */
export interface Need {
  metricIds: readonly number[];
  /** The span of points that are joined. */
  from: number;
  to: number;
  /** Every moment at which the reading is cut. */
  bounds: Float64Array;
}

/** The strips to use, chosen by resolution. */
export interface Plan {
  notes: { strip: StripNote; part: Part | null }[];
  coarse: boolean;
}

/** Chooses strips; looks at finer ones only where coarser ones will not do. */
export async function plan(client: pg.PoolClient, { metricIds, from, to, bounds }: Need): Promise<Plan> {
  const common = { metricIds, from, to };
  const loose = await listStrips(client, { ...common, resolution: RAW, below: 3 });
  const choice = new Choice(bounds, loose);
  const hours = await listStrips(client, { ...common, resolution: HOURS });
  const spans = choice.daysWithoutHours(from, to, hours);
  const finer: StripNote[] = [];
  for (const span of spans) {
    const within = { metricIds, from: Math.max(from, span.from), to: Math.min(to, span.to) };
    for (const resolution of [MINUTES, RAW] as const)
      for (const note of await listStrips(client, { ...within, resolution })) finer.push(note);
  }
  const known = new Set(finer.map(({ id }) => id));
  const all = [...hours, ...loose.filter(({ id }) => !known.has(id)), ...finer];
  const notes: Plan["notes"] = [];
  let coarse = false;
  for (const metricId of metricIds) {
    const chosen = chooseStrips(
      all.filter((note) => note.metricId === metricId),
      bounds,
    );
    for (const strip of chosen.strips) notes.push(strip);
    coarse ||= chosen.coarse;
  }
  if (notes.length > MAX_STRIPS)
    throw new TooMuchError(
      `${notes.length} strips would have to be read, at most ${MAX_STRIPS}; take a shorter window`,
    );
  return { notes, coarse };
}

/**
 * Opens the strips of a plan; of large ones only the heads where `selective`, and in any case what runs across series:
 * which series those are stands in the bodies.
 */
export async function openAll(
  client: pg.PoolClient,
  cache: StripCache,
  { notes }: Plan,
  selective: boolean,
): Promise<UsedStrip[]> {
  const cached = new Map<number, CachedStrip>();
  const whole: StripNote[] = [];
  const heads: StripNote[] = [];
  for (const { strip: note } of notes) {
    const known = cache.get(note.id);
    if (known) cached.set(note.id, known);
    else if (selective && note.size >= WORTH_A_LOOK && note.headSize > 0) heads.push(note);
    else whole.push(note);
  }
  guardSize(whole.reduce((sum, { size }) => sum + size, 0));
  for (const [id, payload] of await readPayloads(client, whole)) {
    // A copy, because the payloads of a fetch share one buffer that would be kept as a whole.
    const own = new Uint8Array(payload.length + 8);
    own.set(payload);
    const strip = opened(own.subarray(0, payload.length));
    if (strip) cached.set(id, cache.add(id, strip, true));
  }
  const found = await readPieces(
    client,
    heads.map((note) => ({ note, at: 0, size: note.headSize })),
  );
  heads.forEach(({ id, size }, i) => {
    const room = new Uint8Array(size + 8);
    room.set(found[i]);
    const strip = opened(room.subarray(0, size));
    if (strip) cached.set(id, cache.add(id, strip, false));
  });
  const strips = notes.flatMap(({ strip: note, part }) => {
    const found = cached.get(note.id);
    return found ? [{ note, part, cached: found }] : [];
  });
  await fill(client, strips, NO_SERIES);
  return strips;
}

/** Every series that strips hold points of. */
export function seriesIn(strips: readonly UsedStrip[]): Set<number> {
  const ids = new Set<number>();
  for (const { cached } of strips) {
    const { strip } = cached;
    for (let entry = 0; entry < strip.entries; entry++) {
      if (strip.series[entry] !== 0) ids.add(strip.series[entry]);
      else for (const id of cached.acrossSeries(entry).series) ids.add(id);
    }
  }
  return ids;
}

/** How many points of some series strips hold. */
export function pointsIn(strips: readonly UsedStrip[], wanted: ReadonlySet<number>): number {
  let points = 0;
  for (const { cached } of strips) {
    const { strip } = cached;
    for (let entry = 0; entry < strip.entries; entry++) {
      if (wanted.has(strip.series[entry])) points += strip.counts[entry];
      else if (strip.series[entry] === 0)
        for (const id of cached.acrossSeries(entry).series) if (wanted.has(id)) points++;
    }
  }
  return points;
}

const NO_SERIES: ReadonlySet<number> = new Set();

/** A strip, or null where it cannot be read: the rest can. */
function opened(payload: Uint8Array): OpenStrip | null {
  try {
    return openStrip(payload);
  } catch (error) {
    if (error instanceof StripError || error instanceof RangeError) return null;
    throw error;
  }
}

function guardSize(bytes: number): void {
  if (bytes <= MAX_BYTES) return;
  const size = (value: number) => `${Math.ceil(value / 1024 / 1024)} MiB`;
  throw new TooMuchError(
    `${size(bytes)} of stored points would have to be read, at most ${size(MAX_BYTES)}; narrow the window, or say which series with "where"`,
  );
}

/** Fetches what is missing of the bodies of wanted series, and of those that run across series, in runs of bytes. */
export async function fill(
  client: pg.PoolClient,
  strips: readonly UsedStrip[],
  wanted: ReadonlySet<number>,
): Promise<void> {
  const runs: { used: UsedStrip; first: number; after: number; piece: Piece }[] = [];
  for (const used of strips) {
    const { cached, note } = used;
    const { strip } = cached;
    const end = (entry: number) => (entry + 1 < strip.entries ? strip.offsets[entry + 1] : note.size);
    for (let entry = 0; entry < strip.entries; entry++) {
      const needed = (strip.series[entry] === 0 || wanted.has(strip.series[entry])) && !cached.has(entry);
      if (!needed) continue;
      const before = runs[runs.length - 1];
      if (before?.used === used && strip.offsets[entry] - (before.piece.at + before.piece.size) <= SMALL_GAP) {
        before.after = entry + 1;
        before.piece.size = end(entry) - before.piece.at;
      } else {
        const at = strip.offsets[entry];
        runs.push({ used, first: entry, after: entry + 1, piece: { note, at, size: end(entry) - at } });
      }
    }
  }
  guardSize(runs.reduce((sum, { piece }) => sum + piece.size, 0));
  const found = await readPieces(
    client,
    runs.map(({ piece }) => piece),
  );
  runs.forEach(({ used, first, after }, i) => {
    used.cached.fill(first, after, found[i]);
  });
}
