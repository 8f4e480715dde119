import type { Row } from "./drawn";

/** A value in the plot, px: where it lies, and where what it stands on does. */
export interface Point {
  x: number;
  top: number;
  bottom: number;
}

/** A tenth of a pixel is as near as anybody sees. */
const near = (px: number) => Math.round(px * 10) / 10;

/** What rows hold under a key, as points; null where they hold nothing. */
export function points(
  rows: readonly Row[],
  key: string,
  across: (moment: number) => number,
  down: (height: number) => number,
): (Point | null)[] {
  return rows.map((row) => {
    const value = row[key];
    if (value == null) return null;
    const [from, to] = typeof value === "number" ? [value, value] : value;
    return { x: near(across(row.time)), top: near(down(to)), bottom: near(down(from)) };
  });
}

/** Points without a gap between them. */
function runs(all: readonly (Point | null)[]): Point[][] {
  const found: Point[][] = [];
  let run: Point[] | null = null;
  for (const point of all) {
    if (!point) run = null;
    else if (run) run.push(point);
    else {
      run = [point];
      found.push(run);
    }
  }
  return found;
}

const through = (run: readonly Point[], end: "top" | "bottom") =>
  run.map((point) => `${point.x},${point[end]}`).join("L");

/** A line through the tops of points, broken where there is none. */
export function linePath(all: readonly (Point | null)[]): string {
  return runs(all)
    .map((run) => `M${through(run, "top")}`)
    .join("");
}

/** The area between tops and bottoms of points, broken where there is none. */
export function areaPath(all: readonly (Point | null)[]): string {
  return runs(all)
    .map((run) => `M${through(run, "top")}L${through([...run].reverse(), "bottom")}Z`)
    .join("");
}
