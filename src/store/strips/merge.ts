import type pg from "pg";
import { columnCount, type MetricIdentity, type PointSet } from "@/core/metric/model";
import { rollUp } from "@/core/rollup/rollUp";
import type { Arrived } from "@/core/strip/assemble";
import { type ArrivedStrip, gather } from "@/core/strip/gather";
import { splitAt, withoutOverruled } from "@/core/strip/rewrite";
import { decodeStrip, openStrip, readEntry } from "@/core/strip/strip";
import { DAY, HOUR, MINUTE } from "@/core/window/lengths";
import { transaction } from "../database/connect";
import { METRIC_LOCK } from "../database/locks";
import { ensurePartitions, HOURS, MINUTES, RAW, type Resolution } from "../database/partitions";
import { LONG_MERGE_WINDOW, pack } from "./mergeWindows";
import {
  deleteStrips,
  type FreshStrip,
  listStrips,
  makeStrip,
  readPayloads,
  type StripNote,
  splitBySpan,
  writeStrips,
} from "./strips";
import type { Task } from "./tasks";

/**
 * Merging and rolling up. In an open half hour, fresh strips are gathered once there are many; when it is over,
 * everything in it becomes one merged strip per range of series; when two hours are over, so do its half hours, and in
 * the same transaction the two hours are rolled up to minutes. When a day is over, its minutes are rolled up to hours;
 * long after, the minutes of a day and the hours of 16 days become one strip per range of series.
 *
 * Each of these is one transaction that inserts the result and deletes its sources, so a reader sees either, and a kill
 * leaves the sources. What holds at every moment: minutes are exactly those of the points in strips of level 3, and
 * where a day has hours, they are exactly those of its minutes. A late point stands in a strip of a lower level until
 * its two hours are merged again; that replaces their minutes and takes the day's hours away, to be made anew.
 */

/** Numbers decoded at a time. */
const MAX_NUMBERS = 16_000_000;

/** Opened strips of one metric. */
interface Opened {
  strips: ArrivedStrip[];
  across: Arrived[];
  /** Ids of their series, ascending. */
  series: number[];
  /** Numbers that they hold. */
  numbers: number;
}

async function open(client: pg.PoolClient, notes: readonly StripNote[]): Promise<Opened> {
  const payloads = await readPayloads(client, notes);
  const strips: ArrivedStrip[] = [];
  const across: Arrived[] = [];
  const series = new Set<number>();
  let numbers = 0;
  for (const { id, arrived } of notes) {
    const payload = payloads.get(id);
    if (!payload) throw new Error(`strip ${id} went away`);
    const strip = openStrip(payload);
    strips.push({ strip, arrived });
    for (let entry = 0; entry < strip.entries; entry++) {
      numbers += strip.counts[entry] * (columnCount(strip.layouts[strip.layoutOf[entry]]) + 6);
      if (strip.series[entry] !== 0) series.add(strip.series[entry]);
      else {
        const set = readEntry(strip, entry);
        across.push({ set, arrived });
        for (const id of set.series) series.add(id);
      }
    }
  }
  return { strips, across, series: [...series].sort((a, b) => a - b), numbers };
}

/** The points per series, in portions that fit into memory. */
function* portions({ strips, across, series, numbers }: Opened): Generator<PointSet[][]> {
  const share = Math.ceil(series.length / Math.max(1, Math.ceil(numbers / MAX_NUMBERS)));
  for (let from = 0; from < series.length; from += share) {
    const wanted = new Set(series.slice(from, from + share));
    yield [...gather(strips, across, wanted, "all").values()];
  }
}

async function identityOf(client: pg.PoolClient, metricId: number): Promise<MetricIdentity> {
  const { rows } = await client.query<MetricIdentity>(
    "SELECT name, kind, unit, temporality, monotonic FROM metric WHERE id = $1",
    [metricId],
  );
  return rows[0];
}

/** The latest place in the order of arrival. */
function latestOf(notes: readonly StripNote[]): number {
  return notes.reduce((most, { arrived }) => Math.max(most, arrived), Number.NEGATIVE_INFINITY);
}

/** Sources of a rewriting: what lies inside the span, and of each source what lies outside it. */
interface Sources {
  opened: Opened;
  outside: { note: StripNote; sets: PointSet[] }[];
}

/**
 * Opens the strips that are to be rewritten as one over [start, end). Those that reach beyond it are taken apart; and
 * where strips that are not rewritten arrived in between, what they overrule is left out.
 */
async function openWithin(
  client: pg.PoolClient,
  notes: readonly StripNote[],
  others: readonly StripNote[],
  start: number,
  end: number,
): Promise<Sources> {
  const earliest = notes.reduce((least, { arrived }) => Math.min(least, arrived), Number.POSITIVE_INFINITY);
  const latest = latestOf(notes);
  const between = others.filter(({ arrived }) => arrived > earliest && arrived <= latest);
  const isPlain = ({ from, to }: StripNote) => between.length === 0 && from >= start && to < end;
  const opened = await open(client, notes.filter(isPlain));
  const outside: Sources["outside"] = [];
  const inside: Arrived[] = [];
  const odd = notes.filter((note) => !isPlain(note));
  const payloads = await readPayloads(client, [...odd, ...between]);
  for (const note of odd) {
    const split = splitAt(decodeStrip(payloads.get(note.id)!), start, end);
    if (split.outside.length > 0) outside.push({ note, sets: split.outside });
    for (const set of split.inside) inside.push({ set, arrived: note.arrived });
  }
  const overruling = between.flatMap(({ id, arrived }) =>
    decodeStrip(payloads.get(id)!).map((set) => ({ set, arrived })),
  );
  const series = new Set(opened.series);
  for (const one of withoutOverruled(inside, overruling)) {
    opened.across.push(one);
    opened.numbers += one.set.count * (columnCount(one.set.layout) + 6);
    for (const id of one.set.series) series.add(id);
  }
  return { opened: { ...opened, series: [...series].sort((a, b) => a - b) }, outside };
}

/** Makes everything that there is of a metric in a span into fewer strips. */
async function mergeRaw(client: pg.PoolClient, task: Task, upTo: number, into: number): Promise<void> {
  const { metricId, start, length } = task;
  const end = start + length;
  const listed = await listStrips(client, { metricIds: [metricId], resolution: RAW, from: start, to: end - 1 });
  const notes = listed.filter(({ level }) => level <= upTo);
  if (notes.length === 0) return;
  const latest = latestOf(notes);
  const identity = await identityOf(client, metricId);
  const rolling = into === 3;
  const minutes = rolling ? await minutesApart(client, metricId, start, length) : [];
  // The points around a late one may be gone already: then it joins what was rolled up of them.
  const alone = minutes.length > 0 && !notes.some(({ level }) => level === 3);
  const others = listed.filter(({ level }) => level > upTo);
  const { opened, outside } = await openWithin(client, notes, others, start, end);
  const source = alone ? joined(opened, await open(client, minutes)) : opened;
  if (rolling) await reopen(client, metricId, start, minutes);
  await deleteStrips(client, notes);
  // What a strip holds beyond the span waits there for its own merge, in its own place in the order of arrival.
  await writeStrips(
    client,
    outside.map(({ note, sets }) => makeStrip(metricId, sets, Math.min(note.level, 1), note.arrived)),
  );
  for (const series of portions(source)) {
    if (alone) {
      await writeStrips(client, pack(metricId, series.flat(), { level: 3, arrived: latest, resolution: MINUTES }));
      continue;
    }
    await writeStrips(client, pack(metricId, series.flat(), { level: into, arrived: latest, resolution: RAW }));
    if (rolling) await writeStrips(client, rolledUp(metricId, identity, series, latest));
  }
}

function joined(a: Opened, b: Opened): Opened {
  return {
    strips: [...a.strips, ...b.strips],
    across: [...a.across, ...b.across],
    series: [...new Set([...a.series, ...b.series])].sort((one, other) => one - other),
    numbers: a.numbers + b.numbers,
  };
}

/** The minutes of a span's points. */
function rolledUp(
  metricId: number,
  identity: MetricIdentity,
  series: readonly PointSet[][],
  arrived: number,
): FreshStrip[] {
  const minutes = series.flatMap((parts) => rollUp(identity, parts, MINUTE));
  return pack(metricId, minutes, { level: 3, arrived, resolution: MINUTES });
}

/** Strips of minutes that touch a span. */
function minutesAt(client: pg.PoolClient, metricId: number, start: number, length: number): Promise<StripNote[]> {
  return listStrips(client, { metricIds: [metricId], resolution: MINUTES, from: start, to: start + length });
}

/** Strips of minutes that begin in a span. */
async function minutesOf(client: pg.PoolClient, metricId: number, start: number, length: number): Promise<StripNote[]> {
  const touching = await minutesAt(client, metricId, start, length);
  return touching.filter(({ from }) => from >= start && from < start + length);
}

/** The minutes of two hours in strips of their own, which they are made where they stand in one of their day. */
async function minutesApart(
  client: pg.PoolClient,
  metricId: number,
  start: number,
  length: number,
): Promise<StripNote[]> {
  const touching = await minutesAt(client, metricId, start, length);
  if (touching.some(({ level }) => level > 3)) await takeDayApart(client, metricId, start);
  else return touching.filter(({ from }) => from >= start && from < start + length);
  return minutesOf(client, metricId, start, length);
}

/** Takes the minutes of a span and the hours of its day away, to be made anew. */
export async function reopen(
  client: pg.PoolClient,
  metricId: number,
  start: number,
  minutes: readonly StripNote[],
): Promise<void> {
  await deleteStrips(client, minutes);
  const day = Math.floor(start / DAY) * DAY;
  const hours = await listStrips(client, { metricIds: [metricId], resolution: HOURS, from: day, to: day + DAY - 1 });
  if (hours.length === 0) return;
  // Strips of many days go back to days, without the one that is to be made anew.
  const opened = await open(client, hours);
  await deleteStrips(client, hours);
  for (const series of portions(opened)) {
    for (const [from, some] of splitBySpan(series.flat(), DAY)) {
      if (from === day) continue;
      const arrived = latestOf(hours);
      await writeStrips(client, pack(metricId, some, { level: 2, arrived, resolution: HOURS }));
    }
  }
}

/** Rolls the minutes of a day up to hours. */
async function makeHours(client: pg.PoolClient, { metricId, start, length }: Task): Promise<void> {
  const notes = await minutesOf(client, metricId, start, length);
  if (notes.length === 0) return;
  const there = await listStrips(client, {
    metricIds: [metricId],
    resolution: HOURS,
    from: start,
    to: start + length - 1,
  });
  if (there.length > 0) return;
  const arrived = latestOf(notes);
  const identity = await identityOf(client, metricId);
  for (const series of portions(await open(client, notes))) {
    const hours = series.flatMap((parts) => rollUp(identity, parts, HOUR));
    await writeStrips(client, pack(metricId, hours, { level: 2, arrived, resolution: HOURS }));
  }
}

/** Makes the strips of a resolution that begin in a span into fewer: one per range of series. */
async function mergeRolled(
  client: pg.PoolClient,
  { metricId, start, length }: Task,
  resolution: Resolution,
  level: number,
): Promise<void> {
  const span = { metricIds: [metricId], resolution, from: start, to: start + length - 1 };
  const notes = (await listStrips(client, span)).filter(({ from }) => from >= start && from < start + length);
  if (notes.length === 0) return;
  const arrived = latestOf(notes);
  const opened = await open(client, notes);
  await deleteStrips(client, notes);
  for (const series of portions(opened))
    await writeStrips(client, pack(metricId, series.flat(), { level, arrived, resolution }));
}

/** Minutes that stand in a strip of their day go back to strips of two hours. */
async function takeDayApart(client: pg.PoolClient, metricId: number, start: number): Promise<void> {
  const day = Math.floor(start / DAY) * DAY;
  const span = { metricIds: [metricId], resolution: MINUTES, from: day, to: day + DAY - 1 } as const;
  const notes = (await listStrips(client, span)).filter(({ level }) => level > 3);
  const arrived = latestOf(notes);
  const opened = await open(client, notes);
  await deleteStrips(client, notes);
  for (const series of portions(opened))
    for (const some of splitBySpan(series.flat(), LONG_MERGE_WINDOW).values())
      await writeStrips(client, pack(metricId, some, { level: 3, arrived, resolution: MINUTES }));
}

/** Does a piece of work in one transaction. */
export async function runTask(pool: pg.Pool, task: Task): Promise<void> {
  const span = [task.start, task.start + task.length - 1];
  if (task.kind === "merge long") await ensurePartitions(pool, MINUTES, span);
  if (task.kind.startsWith("hours")) await ensurePartitions(pool, HOURS, span);
  await transaction(pool, async (client) => {
    // Work on one metric never runs twice at a time, even where a process lost the lock of its job without noticing.
    await client.query("SELECT pg_advisory_xact_lock($1, $2)", [METRIC_LOCK, task.metricId]);
    switch (task.kind) {
      case "gather":
        return mergeRaw(client, task, 0, 1);
      case "merge":
        return mergeRaw(client, task, 2, 2);
      case "merge long":
        return mergeRaw(client, task, 3, 3);
      case "minutes long":
        return mergeRolled(client, task, MINUTES, 4);
      case "hours":
        return makeHours(client, task);
      case "hours long":
        return mergeRolled(client, task, HOURS, 3);
    }
  });
}

/**
 * Strips of level 3 and the minutes of the same points, for writers that have whole spans of two hours at hand.
 *
 * @param sets points of one metric, each set of one series
 * @param rawFrom spans that end before this have minutes only, Unix ms
 */
export function settledStrips(
  metricId: number,
  identity: MetricIdentity,
  sets: readonly PointSet[],
  rawFrom = Number.NEGATIVE_INFINITY,
): FreshStrip[] {
  return [...splitBySpan(sets, LONG_MERGE_WINDOW)].flatMap(([start, some]) => {
    const bySeries = new Map<number, PointSet[]>();
    for (const set of some) bySeries.set(set.series[0], [...(bySeries.get(set.series[0]) ?? []), set]);
    const rolled = [...bySeries.values()].flatMap((parts) => rollUp(identity, parts, MINUTE));
    const minutes = pack(metricId, rolled, { level: 3, arrived: null, resolution: MINUTES });
    if (start + LONG_MERGE_WINDOW <= rawFrom) return minutes;
    // Points that stand a minute apart are their own minutes, and need not be encoded again.
    const asTheyAre = new Set(some);
    const raw =
      rolled.length === some.length && rolled.every((set) => asTheyAre.has(set))
        ? minutes.map((strip): FreshStrip => ({ ...strip, resolution: RAW }))
        : pack(metricId, some, { level: 3, arrived: null, resolution: RAW });
    return [...raw, ...minutes];
  });
}
