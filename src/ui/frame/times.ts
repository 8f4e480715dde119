import { DAY, HOUR, MINUTE } from "@/core/window/lengths";

/** Times in the viewer's zone, as short as their span allows. */

function two(value: number): string {
  return String(value).padStart(2, "0");
}

const MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

export function clock(time: number, seconds = false): string {
  const date = new Date(time);
  const text = `${two(date.getHours())}:${two(date.getMinutes())}`;
  return seconds ? `${text}:${two(date.getSeconds())}` : text;
}

export function day(time: number): string {
  const date = new Date(time);
  return `${date.getDate()} ${MONTHS[date.getMonth()]}`;
}

/** A tick on an axis that spans so much. */
export function tick(time: number, span: number): string {
  const date = new Date(time);
  if (span > 16 * HOUR && date.getHours() === 0 && date.getMinutes() === 0) return day(time);
  return clock(time, span < 20 * MINUTE);
}

/** A day with its year, where that is not this one: "23 Oct 2025". */
export function dayWithYear(time: number): string {
  const year = new Date(time).getFullYear();
  return year === new Date().getFullYear() ? day(time) : `${day(time)} ${year}`;
}

/** A moment in full: "23 Nov 14:05:10". */
export function moment(time: number): string {
  return `${dayWithYear(time)} ${clock(time, true)}`;
}

/** How far a clock is from the world's, by minutes that it is ahead: "UTC+1", "UTC−3:30", "UTC". */
export function offsetText(minutes: number): string {
  if (minutes === 0) return "UTC";
  const [hours, rest] = [Math.floor(Math.abs(minutes) / 60), Math.abs(minutes) % 60];
  return `UTC${minutes < 0 ? "−" : "+"}${hours}${rest === 0 ? "" : `:${two(rest)}`}`;
}

/** How far the clock of the viewer is from the world's at a moment. */
export function zoneOffset(time: number): string {
  return offsetText(-new Date(time).getTimezoneOffset());
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

/** Moments for ticks, at round times of the viewer's clock: about `wanted` of them inside (from, to). */
export function tickTimes(from: number, to: number, wanted: number): number[] {
  const steps = [1, 2, 5, 10, 15, 30]
    .map((s) => s * 1000)
    .concat(
      [1, 2, 5, 10, 15, 30].map((m) => m * MINUTE),
      [1, 2, 3, 6, 12].map((h) => h * HOUR),
      [1, 2, 4, 7, 14, 30, 60].map((d) => d * DAY),
    );
  const step = steps.find((one) => (to - from) / one <= wanted) ?? steps[steps.length - 1];
  const offset = new Date(from).getTimezoneOffset() * MINUTE;
  const times: number[] = [];
  for (let time = Math.ceil((from - offset) / step) * step + offset; time <= to; time += step) times.push(time);
  return times;
}

/** How long ago something was: "5 h ago"; "never" where it was not. */
export function ago(time: number | null, now: number): string {
  return time === null ? "never" : `${duration(Math.max(0, now - time))} ago`;
}
