import { DAY, HOUR, MINUTE } from "@/core/window/lengths";
import { stepBounds, zoneOffset } from "@/core/window/steps";

/** Times in the viewer's zone, as short as their span allows. */

function two(value: number): string {
  return String(value).padStart(2, "0");
}

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** Times as the clocks of one zone have them. */
export interface Times {
  /** "14:05", or "14:05:10". */
  clock: (time: number, seconds?: boolean) => string;
  /** A tick on an axis that spans so much. */
  tick: (time: number, span: number) => string;
  /** A day with its year, where that is not this one: "23 Oct 2025". */
  dayWithYear: (time: number) => string;
  /** A moment in full: "23 Nov 14:05:10". */
  moment: (time: number) => string;
  /** How far the zone's clocks are from the world's at a moment: "UTC+1". */
  offset: (time: number) => string;
  /** Moments for ticks, at round times of these clocks: about `wanted` of them inside (from, to). */
  tickTimes: (from: number, to: number, wanted: number) => number[];
}

const TICKS = [1, 2, 5, 10, 15, 30]
  .map((s) => s * 1000)
  .concat(
    [1, 2, 5, 10, 15, 30].map((m) => m * MINUTE),
    [1, 2, 3, 6, 12].map((h) => h * HOUR),
    [1, 2, 4, 7, 14, 30, 60].map((d) => d * DAY),
  );

/** Times in a zone, by its IANA name. */
export function timesIn(zone: string): Times {
  /** A date whose world clock shows what the zone's clocks show. */
  const shown = (time: number) => new Date(time + zoneOffset(time, zone));
  const clock: Times["clock"] = (time, seconds = false) => {
    const date = shown(time);
    const text = `${two(date.getUTCHours())}:${two(date.getUTCMinutes())}`;
    return seconds ? `${text}:${two(date.getUTCSeconds())}` : text;
  };
  const day = (time: number): string => {
    const date = shown(time);
    return `${date.getUTCDate()} ${MONTHS[date.getUTCMonth()]}`;
  };
  const dayWithYear: Times["dayWithYear"] = (time) => {
    const year = shown(time).getUTCFullYear();
    return year === shown(Date.now()).getUTCFullYear() ? day(time) : `${day(time)} ${year}`;
  };
  return {
    clock,
    dayWithYear,
    moment: (time) => `${dayWithYear(time)} ${clock(time, true)}`,
    offset: (time) => offsetText(zoneOffset(time, zone) / MINUTE),
    tick: (time, span) => {
      const date = shown(time);
      if (span > 16 * HOUR && date.getUTCHours() === 0 && date.getUTCMinutes() === 0) return day(time);
      return clock(time, span < 20 * MINUTE);
    },
    tickTimes: (from, to, wanted) => {
      const step = TICKS.find((one) => (to - from) / one <= wanted) ?? TICKS[TICKS.length - 1];
      // Either end is a tick where it is at a round time.
      return [...stepBounds(from - 1, to + 1, step, zone).subarray(1, -1)];
    },
  };
}

/** How far a clock is from the world's, by minutes that it is ahead: "UTC+1", "UTC−3:30", "UTC". */
export function offsetText(minutes: number): string {
  if (minutes === 0) return "UTC";
  const [hours, rest] = [Math.floor(Math.abs(minutes) / 60), Math.abs(minutes) % 60];
  return `UTC${minutes < 0 ? "−" : "+"}${hours}${rest === 0 ? "" : `:${two(rest)}`}`;
}

/** A length of time in one or two words: "52 min", "5 h", "3 days". */
export function duration(ms: number): string {
  const minutes = Math.round(ms / 60_000);
  if (ms < 60_000) return `${Math.max(0, Math.round(ms / 1000))} s`;
  if (minutes < 120) return `${minutes} min`;
  const hours = Math.round(ms / HOUR);
  if (hours < 48) return `${hours} h`;
  return `${Math.round(ms / DAY)} days`;
}

/** How long ago something was: "5 h ago"; "never" where it was not. */
export function ago(time: number | null, now: number): string {
  return time === null ? "never" : `${duration(Math.max(0, now - time))} ago`;
}
