/** Steps of a window, aligned to the wall clock of a time zone. Times are Unix milliseconds. */

const HOUR = 3600_000;
const DAY = 24 * HOUR;

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

const formatters = new Map<string, Intl.DateTimeFormat>();

function formatter(zone: string): Intl.DateTimeFormat {
  let found = formatters.get(zone);
  if (!found) {
    found = new Intl.DateTimeFormat("en-US", {
      timeZone: zone,
      hourCycle: "h23",
      year: "numeric",
      month: "numeric",
      day: "numeric",
      hour: "numeric",
      minute: "numeric",
      second: "numeric",
    });
    formatters.set(zone, found);
  }
  return found;
}

export function isZone(zone: string): boolean {
  try {
    formatter(zone);
    return true;
  } catch {
    return false;
  }
}

/** How far the zone's clock is ahead of UTC at a moment, ms. */
export function zoneOffset(time: number, zone: string): number {
  if (zone === "UTC") return 0;
  const parts: Record<string, number> = {};
  for (const { type, value } of formatter(zone).formatToParts(time)) parts[type] = Number(value);
  const local = Date.UTC(parts.year, parts.month - 1, parts.day, parts.hour, parts.minute, parts.second);
  return local - Math.floor(time / 1000) * 1000;
}

/** The first moment after `time` at which the zone's clock stands on a multiple of the step. */
function nextAligned(time: number, step: number, zone: string): number {
  const offset = zoneOffset(time, zone);
  let next = (Math.floor((time + offset) / step) + 1) * step - offset;
  const later = zoneOffset(next, zone);
  // Where the clock was changed in between, the multiple lies elsewhere.
  if (later !== offset && step >= HOUR) {
    const moved = (Math.floor((time + offset) / step) + 1) * step - later;
    if (moved > time) next = moved;
  }
  return next;
}

/**
 * The bounds of the steps of (from, to]: `from`, the aligned moments inside, `to`.
 * The first and the last step are shorter where the window is not aligned.
 */
export function stepBounds(from: number, to: number, step: number, zone = "UTC"): Float64Array {
  const bounds = [from];
  for (let time = nextAligned(from, step, zone); time < to; ) {
    bounds.push(time);
    // Below an hour, clock changes keep the alignment; asking the calendar each time would be slow.
    time = step < HOUR ? time + step : nextAligned(time, step, zone);
  }
  bounds.push(to);
  return Float64Array.from(bounds);
}
