import { printDuration } from "./durationText";
import { DAY, DURATIONS, HOUR, MINUTE } from "./lengths";

/** The window in time that a page shows: the last so long, moving with the clock, or a fixed span. Unix ms. */
export type WindowChoice = { type: "last"; length: number } | { type: "fixed"; from: number; to: number };

export interface Span {
  from: number;
  to: number;
}

const REFRESHES = [5000, 10_000, 15_000, 30_000, MINUTE, 2 * MINUTE, 5 * MINUTE];

/** The lengths that are offered for a live window, ms. */
export const LENGTHS: readonly number[] = [
  15 * MINUTE,
  HOUR,
  3 * HOUR,
  6 * HOUR,
  12 * HOUR,
  DAY,
  3 * DAY,
  7 * DAY,
  14 * DAY,
  30 * DAY,
  90 * DAY,
  365 * DAY,
];

const SHORTEST = 10_000;

/** A chart of a whole page is about half so many pixels wide. */
const HALF_PIXELS = 1440;

/** How often a live window of this length moves on: where it moves by less than half a pixel, nobody could see it. ms */
export function refreshEvery(length: number): number {
  const wanted = length / HALF_PIXELS;
  return REFRESHES.find((every) => every >= wanted * 0.999) ?? REFRESHES[REFRESHES.length - 1];
}

/** Where long live windows may begin: so that they do not cut through what is kept by the minute or by the hour. */
function startsOn(length: number): number {
  return length >= 30 * DAY ? HOUR : length >= DAY ? MINUTE : 1;
}

/** The span of a choice at a moment. */
export function spanOfChoice(choice: WindowChoice, now: number): Span {
  if (choice.type === "fixed") return { from: choice.from, to: choice.to };
  const { length } = choice;
  const grain = refreshEvery(length);
  const to = Math.floor(now / grain) * grain;
  const start = startsOn(length);
  return { from: Math.floor((to - length) / start) * start, to };
}

/** How often what is judged over a live window follows it, ms: calls of hours say nothing else a few seconds later. */
const JUDGED_EVERY = 30_000;

/** What of a choice's span is judged: of a live one that which ended with the last half minute. */
export function judgedSpan({ from, to }: Span, choice: WindowChoice): Span {
  const behind = choice.type === "last" ? to % JUDGED_EVERY : 0;
  return { from: from - behind, to: to - behind };
}

/** A choice in words: "Last 6 hours". */
export function lengthInWords(length: number): string {
  const named: [number, string][] = [
    [DAY, "day"],
    [HOUR, "hour"],
    [MINUTE, "minute"],
    [1000, "second"],
  ];
  const [unit, word] = named.find(([size]) => length >= size && length % size === 0) ?? [1, "millisecond"];
  const count = length / unit;
  return count === 1 ? word : `${count} ${word}s`;
}

/** What the time rail spans for a window: some of what came before it, and after it where there is any. */
export function railSpan({ from, to }: Span, now: number): Span {
  const length = to - from;
  const whole = Math.max(length * 1.25, Math.min(length * 4, 4 * DAY));
  const end = Math.min(Math.max(now, to), to + (whole - length) / 3);
  return { from: end - whole, to: end };
}

/** A fixed choice in whole seconds, at least ten seconds long. */
export function fixed(from: number, to: number): WindowChoice {
  const start = Math.round(from / 1000) * 1000;
  return { type: "fixed", from: start, to: Math.max(Math.round(to / 1000) * 1000, start + SHORTEST) };
}

/** The window that shows a release's start with a quarter of its length before it. */
export function aroundMark(at: number, length: number, now: number): WindowChoice {
  const from = at - length / 4;
  const to = Math.min(from + length, now);
  return fixed(to - length, to);
}

/** The mark before or after a moment; null where there is none. */
export function neighbourMark<T extends { at: number }>(
  marks: readonly T[],
  current: number,
  direction: -1 | 1,
): T | null {
  const sorted = [...marks].sort((a, b) => a.at - b.at);
  if (direction === 1) return sorted.find(({ at }) => at > current) ?? null;
  return sorted.reverse().find(({ at }) => at < current) ?? null;
}

/** What an address without a window shows. */
const USUAL_LENGTH = 6 * HOUR;

function lengthOf(text: string): number {
  const match = /^(\d+)(ms|s|m|h|d|w)$/.exec(text);
  return match ? Number(match[1]) * DURATIONS[match[2]] : USUAL_LENGTH;
}

/** The choice that an address makes with its parts `last`, or `from` and `to`. */
export function choiceOf({
  last,
  from,
  to,
}: {
  last: string | null;
  from: number | null;
  to: number | null;
}): WindowChoice {
  if (from !== null && to !== null && to > from) return { type: "fixed", from, to };
  return { type: "last", length: lengthOf(last ?? "") };
}

/** A live choice as text for the address. */
export function printLast(length: number): string {
  return printDuration(length);
}
