import { DAY, DURATIONS, HOUR, MINUTE } from "./lengths";

/** An earlier window of the same length that is held against the one in hand. */
export interface Earlier {
  /** As it stands in addresses: how far back it lies. */
  value: string;
  /** How far back, ms. */
  back: number;
  /** How it is called: "a week before". */
  words: string;
}

/** Those that are offered. */
export const EARLIER: readonly { value: string; label: string }[] = [
  { value: "1h", label: "an hour before" },
  { value: "1d", label: "a day before" },
  { value: "1w", label: "a week before" },
  { value: "4w", label: "four weeks before" },
];

/** As far back as one may lie, ms. */
const FURTHEST = 400 * DAY;

const PARTS: readonly (readonly [number, string])[] = [
  [DAY, "day"],
  [HOUR, "hour"],
  [MINUTE, "minute"],
  [1000, "second"],
];

/** A length in its two largest parts: "1 day 2 hours". */
function inParts(length: number): string {
  let rest = length;
  const parts = PARTS.flatMap(([size, word]) => {
    const count = Math.floor(rest / size);
    rest -= count * size;
    return count === 0 ? [] : [`${count} ${word}${count === 1 ? "" : "s"}`];
  });
  return parts.slice(0, 2).join(" ");
}

/** An earlier window by how it is written: "1w", "90m"; null where it is none. */
export function earlierIn(value: string | null): Earlier | null {
  const found = /^(\d{1,9})\s*(s|m|min|h|d|w)$/.exec(value?.trim() ?? "");
  if (!found) return null;
  const back = Number(found[1]) * DURATIONS[found[2]];
  if (back < 1000 || back > FURTHEST) return null;
  const text = `${found[1]}${found[2]}`;
  const words = EARLIER.find((one) => one.value === text)?.label ?? `${inParts(back)} before`;
  return { value: text, back, words };
}

/** How far back an earlier window lies as addresses have it: in whole minutes, or seconds where it lies near. */
export function earlierText(back: number): string {
  return back >= HOUR ? `${Math.round(back / MINUTE)}m` : `${Math.max(1, Math.round(back / 1000))}s`;
}
