import type { Span } from "@/core/window/window";
import { shortName } from "../frame/names";
import type { Axis } from "./drawn";
import { apart, MAX_LABEL, nameRows } from "./labels";
import type { PlacedThreshold } from "./thresholds";

/** What is marked on a chart, and where: releases at their moments, levels that mean something. */

/** Marks of releases that are nearer than this part of the window are drawn as one. */
const APART = 0.008;
/** Marks nearer than this part of the window turn their names away from each other. */
const CROWDED = 0.07;
/** With more marks than these, a name has only its own room, px. */
const DENSE = 8;
const NAME_ROOM = 76;
const MAX_LABEL_DENSE = 10;

/** What the name of a release and the words of a level keep from their lines, px. */
export const BESIDE_MARK = 3;
export const BESIDE_LEVEL = 5;

/** A release that began to serve at a moment, Unix ms. */
export interface Mark {
  release: string;
  at: number;
}

/** A release to be drawn, with where its name stands; a name that has no room is empty. */
export interface DrawnMark extends Mark {
  name: string;
  stands: "over" | "right" | "left";
}

function standsAt(mark: Mark, all: readonly Mark[], near: number): DrawnMark["stands"] {
  if (all.some(({ at }) => at > mark.at && at - mark.at < near)) return "left";
  if (all.some(({ at }) => at < mark.at && mark.at - at < near)) return "right";
  return "over";
}

/**
 * The releases to be drawn in a window, of many that are too near each other the latest.
 *
 * @param room width of the plot, px
 */
export function marksIn(marks: readonly Mark[], span: Span, room: number): DrawnMark[] {
  const window = span.to - span.from;
  const inWindow = apart(
    marks.filter(({ at }) => at > span.from && at <= span.to),
    ({ at }) => at,
    APART * window,
  );
  // Two near each other turn their names away from each other; for a third there is no room, and of many for one.
  const dense = inWindow.length > DENSE;
  const gap = dense ? Math.max(CROWDED, NAME_ROOM / Math.max(NAME_ROOM, room)) : CROWDED;
  const rows = nameRows(
    inWindow.map(({ at }) => at),
    gap * window,
    dense ? 1 : 2,
  );
  return inWindow.map(({ release, at }, i) => ({
    release,
    at,
    name: rows[i] >= 0 ? shortName(release, dense ? MAX_LABEL_DENSE : MAX_LABEL) : "",
    stands: standsAt({ release, at }, inWindow, CROWDED * window),
  }));
}

/** A level to be drawn, in the unit of its axis. */
export interface DrawnLevel {
  level: number;
  text: string;
  colour: string;
  /** The side of it that is wrong, from the lower end to the upper; null where neither is, or it is not on the axis. */
  wrong: { low: number; high: number } | null;
}

/** The levels that lie on an axis. */
export function levelsOn(thresholds: readonly PlacedThreshold[], { ticks, writer }: Axis): DrawnLevel[] {
  const [bottom, top] = [ticks[0], ticks[ticks.length - 1]];
  return thresholds.flatMap(({ at, word, value, wrong }) => {
    const level = value * writer.factor;
    if (!(level >= bottom && level <= top)) return [];
    const side = wrong === "above" ? { low: level, high: top } : { low: bottom, high: level };
    return {
      level,
      text: `${word} ${at}`,
      colour: wrong === "neither" ? "var(--color-secondary)" : "var(--color-error)",
      wrong: wrong === "neither" || side.low === side.high ? null : side,
    };
  });
}
