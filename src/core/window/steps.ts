import { DAY, HOUR } from "./lengths";

/** Steps of a window, aligned to the wall clock of a time zone. Times are Unix milliseconds. */

/** Step widths that people read easily, ms. */
export const NICE_STEPS: readonly number[] = [
  1000,
  2000,
  5000,
  10_000,
  15_000,
  30_000,
  60_000,
  120_000,
  300_000,
  600_000,
  900_000,
  1800_000,
  HOUR,
  2 * HOUR,
  3 * HOUR,
  6 * HOUR,
  12 * HOUR,
  DAY,
  2 * DAY,
  7 * DAY,
];

const STEPS_WANTED = 300;

/** The step for a window: about 300 of them, never finer than the data's usual interval. */
export function defaultStep(from: number, to: number, interval: number): number {
  const least = Math.max((to - from) / STEPS_WANTED, interval);
  return NICE_STEPS.find((step) => step >= least * 0.999) ?? Math.ceil(least / DAY) * DAY;
}

/** What is known of a zone's clock. */
interface ZoneClock {
  formatter: Intl.DateTimeFormat;
  /** How far it is ahead by day of UTC, ms; NaN for days on which it is changed. */
  days: Map<number, number>;
}

/** Zones and days that are kept: names come from whoever asks, and one zone has very many of them (EUROPE/berlin). */
const MAX_ZONES = 60;
const MAX_DAYS = 2000;

const clocks = new Map<string, ZoneClock>();

/** @throws RangeError where there is no such zone */
function clockOf(zone: string): ZoneClock {
  let found = clocks.get(zone);
  if (!found) {
    const formatter = new Intl.DateTimeFormat("en-US", {
      timeZone: zone,
      hourCycle: "h23",
      year: "numeric",
      month: "numeric",
      day: "numeric",
      hour: "numeric",
      minute: "numeric",
      second: "numeric",
    });
    found = { formatter, days: new Map() };
    if (clocks.size >= MAX_ZONES) clocks.clear();
    clocks.set(zone, found);
  }
  return found;
}

export function isZone(zone: string): boolean {
  try {
    clockOf(zone);
    return true;
  } catch {
    return false;
  }
}

function offsetAt({ formatter }: ZoneClock, time: number): number {
  const parts: Record<string, number> = {};
  for (const { type, value } of formatter.formatToParts(time)) parts[type] = Number(value);
  const local = Date.UTC(parts.year, parts.month - 1, parts.day, parts.hour, parts.minute, parts.second);
  return local - Math.floor(time / 1000) * 1000;
}

/** How far the zone's clock is ahead of UTC at a moment, ms. No clock is changed twice in a day and back. */
export function zoneOffset(time: number, zone: string): number {
  if (zone === "UTC") return 0;
  const clock = clockOf(zone);
  const day = Math.floor(time / DAY);
  let offset = clock.days.get(day);
  if (offset === undefined) {
    const [first, last] = [offsetAt(clock, day * DAY), offsetAt(clock, (day + 1) * DAY)];
    offset = first === last ? first : Number.NaN;
    if (clock.days.size >= MAX_DAYS) clock.days.clear();
    clock.days.set(day, offset);
  }
  return Number.isNaN(offset) ? offsetAt(clock, time) : offset;
}

/** The moment at which the zone's clock first shows a local time, or null where it never does: the clock was put forward over it. */
function momentOf(local: number, zone: string, near: number): number | null {
  const offset = zoneOffset(near, zone);
  const first = local - offset;
  const there = zoneOffset(first, zone);
  if (there === offset) return first;
  const second = local - there;
  return zoneOffset(second, zone) === there ? second : null;
}

/** 1970 began on a Thursday; weeks begin on Mondays (ISO 8601). */
const FIRST_MONDAY = 4 * DAY;

/** The first moment after `time` at which the zone's clock stands on a multiple of the step; of weeks, on a Monday. */
function nextAligned(time: number, step: number, zone: string): number {
  const local = time + zoneOffset(time, zone);
  const first = step % (7 * DAY) === 0 ? FIRST_MONDAY : 0;
  for (let next = (Math.floor((local - first) / step) + 1) * step + first; ; next += step) {
    const moment = momentOf(next, zone, time);
    if (moment !== null && moment > time) return moment;
  }
}

/** The bound after an aligned one. Up to an hour, steps go on through a change of the clock, which is one of whole hours. */
function nextBound(time: number, step: number, zone: string): number {
  if (step > HOUR) return nextAligned(time, step, zone);
  if (step < HOUR) return time + step;
  const next = time + step;
  const changed = zone === "UTC" ? 0 : zoneOffset(next, zone) - zoneOffset(time, zone);
  return changed % HOUR === 0 ? next : nextAligned(time, step, zone);
}

/**
 * The bounds of the steps of (from, to]: `from`, the aligned moments inside, `to`.
 * The first and the last step are shorter where the window is not aligned. Of more than an hour, a step over a change of
 * the clock is longer or shorter by what it was changed.
 */
export function stepBounds(from: number, to: number, step: number, zone = "UTC"): Float64Array {
  const bounds = [from];
  for (let time = nextAligned(from, step, zone); time < to; ) {
    bounds.push(time);
    time = nextBound(time, step, zone);
  }
  bounds.push(to);
  return Float64Array.from(bounds);
}
