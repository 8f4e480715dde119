import type { Span } from "@/core/window/window";
import type { Times } from "../frame/times";
import { BESIDE, tickText } from "./axisText";
import { blanksOf } from "./blanks";
import { MAX_WITH_BOUNDS, OPACITY } from "./colours";
import { type Chart, type Drawn, type Row, rowsOf } from "./drawn";
import { BESIDE_LEVEL, BESIDE_MARK, type DrawnMark, levelsOn, type Mark, marksIn } from "./marking";
import { areaPath, linePath, points } from "./paths";
import { namesAtEnds, plotIn, sidesOf } from "./room";
import { acrossOf, downOf, type Plot } from "./scales";
import type { PlacedThreshold } from "./thresholds";

/**
 * A chart as the server draws it, without knowing how wide it will be: what is written stands at a distance from an edge
 * or at a part of the width, and lines are stretched to the room between. It is text because nothing of it is looked at again: the
 * chart that the browser draws takes its place.
 */

/** Units across the plot, whatever its width. */
const ACROSS = 1000;
/** Charts that are lower are narrow as a rule, and have room for fewer times. */
const LOW = 200;
const TIMES = { few: 4, many: 7 };
const DOT = 4.8;
/** How wide a plot is by guess, px: what has room for its name among many is chosen by it. */
const GUESSED_ROOM = 600;
/** Where letters of 11 px lie in their line, px from where they would stand by themselves. */
const LINE_BELOW = 2;
const LINE_ABOVE = 1.5;

function escaped(text: string): string {
  return text.replace(/[&<>"']/g, (one) => `&#${one.charCodeAt(0)};`);
}

type Attributes = Record<string, string | number | null>;

function path(d: string, attributes: Attributes): string {
  if (d === "") return "";
  const all = Object.entries({ d, "vector-effect": "non-scaling-stroke", ...attributes });
  return `<path ${all.flatMap(([name, value]) => (value === null ? [] : [`${name}="${value}"`])).join(" ")}/>`;
}

/** What is written at a place. @param style where it stands */
function written(text: string, style: string): string {
  return `<span style="position:absolute;${style}">${escaped(text)}</span>`;
}

/** What is written in one way. */
function inFont(font: string, texts: readonly string[]): string {
  return `<div style="line-height:1;white-space:pre;${font}">${texts.join("")}</div>`;
}

const AXIS_FONT = "font:11px/1 var(--font-mono);color:var(--color-secondary)";
const BLANK = "width:max-content;white-space:normal;text-align:center;padding:0 4px;background:var(--color-base-100)";
const BLANK_FONT = "font-size:12px;color:var(--color-secondary)";
const MARK_FONT = "font:11px/1 var(--font-mono);color:var(--color-neutral)";
const LEVEL_FONT = "font-size:11px";
const NAME_FONT = "font-size:12px;font-weight:650";

/** Lines, areas and points of one series, in the order in which they lie upon each other. */
function seriesPaths(chart: Chart, { key, stroke, side, earlier }: Drawn, rows: readonly Row[], plot: Plot): string {
  const across = acrossOf({ from: chart.from, to: chart.to }, plot);
  const down = downOf(side === "right" && chart.right ? chart.right : chart.left, plot);
  const part = (name: string) => points(rows, `${key}${name}`, across, down);
  const colour = stroke.colour;
  if (chart.style !== "lines") {
    return [
      path(areaPath(part("")), { fill: colour, "fill-opacity": OPACITY[chart.style], stroke: "none" }),
      chart.style === "stacked" ? path(linePath(part("")), { stroke: colour }) : "",
      path(areaPath(part(" fresh")), { fill: colour, "fill-opacity": OPACITY.fresh, stroke: "none" }),
      path(linePath(part(" fresh")), { stroke: colour, "stroke-dasharray": "3 3" }),
    ].join("");
  }
  const bounds = chart.drawn.length > MAX_WITH_BOUNDS ? "" : areaPath(part(" bounds"));
  const dots = part(" dot").flatMap((point) => (point ? [`M${point.x},${point.top}h0`] : []));
  return [
    path(bounds, { fill: colour, "fill-opacity": OPACITY.bounds, stroke: "none" }),
    path(linePath(part("")), {
      "data-of": key,
      stroke: colour,
      "stroke-width": stroke.width,
      "stroke-opacity": earlier ? 0.7 : null,
      "stroke-dasharray": earlier ? "2 4" : null,
    }),
    path(linePath(part(" fresh")), { stroke: colour, "stroke-opacity": 0.8, "stroke-dasharray": "3 3" }),
    path(dots.join(""), { stroke: colour, "stroke-width": DOT, "stroke-linecap": "round" }),
  ].join("");
}

/** How the name of a mark stands to its line, whose place is `left`. */
function besideMark({ stands }: DrawnMark, left: string, top: number): string {
  if (stands === "over") return `left:${left};transform:translate(-50%,-100%);top:${top - BESIDE_MARK + LINE_BELOW}px;`;
  const inside = `top:${top + BESIDE_MARK - LINE_ABOVE}px;`;
  if (stands === "right") return `left:calc(${left} + ${BESIDE_MARK}px);${inside}`;
  return `left:calc(${left} - ${BESIDE_MARK}px);transform:translateX(-100%);${inside}`;
}

/**
 * A chart as HTML for a block of its height.
 *
 * @param height px
 * @param clocks of the viewer
 * @param marks releases to mark, those of any time
 * @param thresholds levels that mean something on its left axis
 */
export function standingChart(
  chart: Chart,
  height: number,
  clocks: Times,
  marks: readonly Mark[] = [],
  thresholds: readonly PlacedThreshold[] = [],
): string {
  const sides = sidesOf(chart);
  const plot = { ...plotIn(height, 0, ACROSS), x: 0 };
  const inside: Plot = { ...plot, y: 0 };
  const rows = rowsOf(chart);
  const down = downOf(chart.left, inside);
  const beyond = sides.right + sides.names;
  const span: Span = { from: chart.from, to: chart.to };
  const across = chart.left.ticks.map((value) => `M0,${down(value)}H${ACROSS}`).join("");
  // The first is the newest: it lies on top.
  const order = chart.style === "lines" ? [...chart.drawn].reverse() : chart.drawn;
  const levels = levelsOn(thresholds, chart.left);
  const drawnMarks = marksIn(marks, span, GUESSED_ROOM);
  const acrossPlot = acrossOf(span, inside);
  const picture = [
    path(across, { stroke: "var(--color-base-300)", "stroke-opacity": 0.55 }),
    path(`M0,${inside.height}H${ACROSS}`, { stroke: "var(--color-base-300)" }),
    ...levels.map(({ level, colour, wrong }) => {
      const side = wrong ? `M0,${down(wrong.high)}H${ACROSS}V${down(wrong.low)}H0Z` : "";
      const line = { stroke: colour, "stroke-dasharray": "5 3" };
      return path(side, { fill: colour, "fill-opacity": 0.06 }) + path(`M0,${down(level)}H${ACROSS}`, line);
    }),
    ...order.map((one) => seriesPaths(chart, one, rows, inside)),
    ...drawnMarks.map(({ at, release }) =>
      path(`M${acrossPlot(at).toFixed(1)},0V${inside.height}`, {
        stroke: "var(--color-neutral)",
        "stroke-width": 1.5,
        "data-mark": escaped(release),
      }),
    ),
  ].join("");
  const { names, unnamed } = namesAtEnds(plot, chart, rows);
  const besideLeft = `right:calc(100% - ${sides.left - BESIDE}px);transform:translateY(-50%);`;
  const besideRight = `left:calc(100% - ${beyond - BESIDE}px);transform:translateY(-50%);`;
  const atEnds = `left:calc(100% - ${sides.names - 7}px);transform:translateY(-50%);`;
  const downRight = chart.right && downOf(chart.right, inside);
  const foot = plot.y + plot.height;
  const below = `transform:translateX(-50%);top:${foot + BESIDE}px;`;
  const place = acrossOf(span, { ...plot, width: 1 });
  const leftOf = (at: number) => `calc(${sides.left}px + (100% - ${sides.left + beyond}px) * ${place(at).toFixed(4)})`;
  const blanks = blanksOf(chart, clocks).map(({ from, to, words }) => {
    const middle = `transform:translate(-50%,-50%);top:${plot.y + plot.height / 2}px;left:${leftOf((from + to) / 2)};`;
    const width = `calc((100% - ${sides.left + beyond}px) * ${((to - from) / (span.to - span.from)).toFixed(4)})`;
    return written(words, `${middle}max-width:${width};${BLANK}`);
  });
  const wanted = height < LOW ? TIMES.few : TIMES.many;
  return [
    `<svg aria-hidden="true" viewBox="0 0 ${ACROSS} ${inside.height}" preserveAspectRatio="none" fill="none"`,
    ` style="position:absolute;overflow:hidden;left:${sides.left}px;top:${plot.y}px;`,
    `width:calc(100% - ${sides.left + beyond}px);height:${inside.height}px">${picture}</svg>`,
    inFont(AXIS_FONT, [
      ...chart.left.ticks.map((value) =>
        written(tickText(chart.left, value), `${besideLeft}top:${plot.y + down(value)}px`),
      ),
      ...(chart.right?.ticks ?? []).map((value) =>
        written(tickText(chart.right!, value), `${besideRight}top:${plot.y + downRight!(value)}px`),
      ),
      ...clocks
        .tickTimes(span.from, span.to, wanted)
        .map((at) => written(clocks.tick(at, span.to - span.from), `${below}left:${leftOf(at)}`)),
    ]),
    ...(levels.length > 0
      ? [
          inFont(
            LEVEL_FONT,
            levels.map(({ level, text, colour }) =>
              written(
                text,
                `left:${sides.left + BESIDE_LEVEL}px;transform:translateY(-100%);top:${plot.y + down(level) - BESIDE_LEVEL + LINE_BELOW}px;color:${colour}`,
              ),
            ),
          ),
        ]
      : []),
    ...(drawnMarks.length > 0
      ? [
          inFont(
            MARK_FONT,
            drawnMarks.map((mark) => written(mark.name, besideMark(mark, leftOf(mark.at), plot.y))),
          ),
        ]
      : []),
    ...(blanks.length > 0 ? [inFont(BLANK_FONT, blanks)] : []),
    inFont(NAME_FONT, [
      ...names.map(({ one, text, y }) => written(text, `${atEnds}color:${one.stroke.colour};top:${y}px`)),
      ...(unnamed > 0
        ? [written(`and ${unnamed} more`, `${atEnds}font-weight:400;color:var(--color-secondary);top:${foot - 2}px`)]
        : []),
    ]),
  ].join("");
}
