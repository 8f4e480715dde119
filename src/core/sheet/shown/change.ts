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
