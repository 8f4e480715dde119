import { shortName } from "../frame/names";
import { axisWidth, TIMES_HEIGHT } from "./axisText";
import type { Chart, Drawn, Row } from "./drawn";
import { MAX_LABEL, spreadLabels } from "./labels";
import { downOf, type Plot } from "./scales";

/** How a chart divides its room, and where the names of its lines stand. */

/** Room above the plot, where names of releases stand, px. */
const ABOVE = 14;
/** What a name takes, px. */
const NAME_HEIGHT = 14;
const LETTER = 6.8;
const BESIDE_PLOT = 14;

/** What stands beside the plot, px. */
export interface Sides {
  left: number;
  /** The axis at the right, and the names beyond it. */
  right: number;
  names: number;
}

export function sidesOf({ drawn, more, left, right }: Chart): Sides {
  const longest = Math.max(
    more > 0 ? 11 : 4,
    ...drawn.map(({ name, earlier }) => (earlier ? 0 : Math.min(MAX_LABEL, name.length))),
  );
  return {
    left: axisWidth(left),
    right: right ? axisWidth(right) : 0,
    names: BESIDE_PLOT + longest * LETTER,
  };
}

/** The plot of a chart that is so high, where so much room is left beside its sides, px. */
export function plotIn(height: number, left: number, room: number): Plot {
  return { x: left, y: ABOVE, width: Math.max(1, room), height: height - ABOVE - TIMES_HEIGHT };
}

/** The name of a line, and where it ends, px from the top. */
export interface EndName {
  one: Drawn;
  text: string;
  y: number;
}

/** Names at the ends of lines, apart from each other: those of the largest, as many as there is room for; the others by number. */
export function namesAtEnds(
  plot: Plot,
  { drawn, more, left, right }: Chart,
  rows: readonly Row[],
): { names: EndName[]; unnamed: number } {
  const downLeft = downOf(left, plot);
  const downRight = right ? downOf(right, plot) : downLeft;
  const own = drawn.filter(({ earlier }) => !earlier);
  const named = own.slice(0, Math.max(1, Math.floor(plot.height / NAME_HEIGHT) - 1));
  const unnamed = more + own.length - named.length;
  const ends = named.map(({ key, side }) => {
    const down = side === "right" ? downRight : downLeft;
    for (let i = rows.length - 1; i >= 0; i--) {
      const value = rows[i][key];
      // What stands on top of others is named in the middle of its area.
      if (value != null) return down(typeof value === "number" ? value : (value[0] + value[1]) / 2);
    }
    return plot.y + plot.height;
  });
  const placed = spreadLabels(ends, NAME_HEIGHT, plot.y + 4, plot.y + plot.height - (unnamed > 0 ? 16 : 2));
  return {
    names: named.map((one, i) => ({ one, text: shortName(one.name, MAX_LABEL), y: placed[i] })),
    unnamed,
  };
}
