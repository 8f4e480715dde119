import { digits, placesOf } from "../../unit/format";

/** How a value differs from an earlier one, in figures and words. */

export interface Change {
  /** ▲ more, ▼ less, ▬ the same. */
  mark: "▲" | "▼" | "▬";
  /** The difference, as a value. */
  by: number;
  /** The part of the earlier value that it is; null where that was 0, or values are parts themselves. */
  part: number | null;
  /** Whether it is good: null where neither way is. */
  good: boolean | null;
}

/** Differences below this part of the value are rounding. */
const NOTHING = 1e-9;

/**
 * @param share whether values are parts of a whole: then the difference is told in points and not as a part
 * @param good which way is good
 */
export function changeFrom(
  earlier: number | null,
  value: number | null,
  share: boolean,
  good: "up" | "down" | "neither",
): Change | null {
  if (earlier === null || value === null) return null;
  const by = value - earlier;
  const same = Math.abs(by) <= NOTHING * Math.max(Math.abs(value), Math.abs(earlier));
  const mark = same ? "▬" : by > 0 ? "▲" : "▼";
  return {
    mark,
    by: same ? 0 : by,
    part: share || earlier === 0 ? null : by / Math.abs(earlier),
    good: same || good === "neither" ? null : by > 0 === (good === "up"),
  };
}

/**
 * A share as its figures show it: what they do not show is no difference.
 *
 * @param beside the share whose figures count
 * @param decimals figures behind the point, of percent; null for those that matter
 */
export function shareAsShown(share: number, beside: number, decimals: number | null): number {
  return Number((share * 100).toFixed(decimals ?? placesOf(Math.abs(beside * 100)))) / 100;
}

/**
 * A change in figures: "▲ 12 %", "▼ 0.4 points", "▬".
 *
 * @param share whether values are parts of a whole
 * @param write a difference as a value in its unit, where it is no part of anything
 * @param decimals figures behind the point, of points; null for those that matter
 */
export function changeFigures(
  { mark, by, part }: Change,
  share: boolean,
  write: (by: number) => string,
  decimals: number | null = null,
): string {
  if (mark === "▬") return mark;
  const size = Math.abs(by);
  if (share) return `${mark} ${decimals === null ? digits(size * 100) : (size * 100).toFixed(decimals)} points`;
  return `${mark} ${part === null ? write(size) : `${digits(Math.abs(part) * 100)} %`}`;
}
