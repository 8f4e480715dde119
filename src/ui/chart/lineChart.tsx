"use client";

import { memo, type RefObject, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import {
  Area,
  CartesianGrid,
  ComposedChart,
  Line,
  ReferenceArea,
  ReferenceLine,
  useOffset,
  usePlotArea,
  XAxis,
  YAxis,
} from "recharts";
import { digits } from "@/core/unit/format";
import { fixed, type Span } from "@/core/window/window";
import { shortName } from "../frame/names";
import { tick, tickTimes } from "../frame/times";
import { usePlace } from "../query/place";
import type { ChartProps } from "./chartProps";
import { type Axis, type Drawn, type Row, rowsOf } from "./drawn";
import { EndNames } from "./endNames";
import { isDimmed, type Labels, useHover } from "./hover";
import { MAX_LABEL, nameRows } from "./labels";
import { Crosshair, momentInWords, type PlotBox } from "./readout";
import { walk } from "./walk";

/** Room for the values at the left: no less than this, and so much for each figure. */
const LEAST_AXIS = 62;
const FIGURE = 6.7;
/** Times along the bottom, and the room that each needs. */
const MAX_TIMES = 7;
const TIME_ROOM = 58;

/**
 * A value without a neighbour, which no line would show. Whether it stands alone is told by the row that the chart hands
 * over with it: what is drawn may still be the answer before.
 */
function LoneDot({
  cx,
  cy,
  payload,
  lone,
  colour,
}: {
  cx?: number | undefined;
  cy?: number | undefined;
  payload?: Row;
  lone: string;
  colour: string;
}) {
  if (cx === undefined || cy === undefined || typeof payload?.[lone] !== "number") return null;
  return <circle cx={cx} cy={cy} r={2.4} fill={colour} />;
}

/** Marks nearer than this part of the window turn their names away from each other. */
const CROWDED = 0.07;

type Mark = NonNullable<ChartProps["marks"]>[number];

const NO_MARKS: readonly Mark[] = [];

function namePosition(mark: Mark, all: readonly Mark[], span: Span): "top" | "insideTopLeft" | "insideTopRight" {
  const near = CROWDED * (span.to - span.from);
  if (all.some(({ at }) => at > mark.at && at - mark.at < near)) return "insideTopRight";
  if (all.some(({ at }) => at < mark.at && mark.at - at < near)) return "insideTopLeft";
  return "top";
}

/** A moment in the plot under the pointer, measured from the plot's own edges. */
function PlotEdges({ edges }: { edges: RefObject<PlotBox> }) {
  const plot = usePlotArea();
  const offset = useOffset();
  if (plot && offset) edges.current = { left: plot.x, width: plot.width, top: plot.y, height: plot.height };
  return null;
}

const TICK = { fontSize: 11, fill: "var(--color-secondary)", fontFamily: "var(--font-mono)" };

/** A value beside an axis; the topmost says its unit. */
function tickText({ ticks, writer }: Axis, value: number): string {
  return value === ticks[ticks.length - 1] ? `${digits(value)} ${writer.suffix}`.trim() : digits(value);
}

function axisWidth(axis: Axis): number {
  return Math.max(LEAST_AXIS, 14 + FIGURE * Math.max(...axis.ticks.map((value) => tickText(axis, value).length)));
}

/** Which series have bounds to draw, and values that stand alone: what nobody has is not laid out point by point. */
function partsIn(rows: readonly Row[], drawn: readonly Drawn[]): { bounded: Set<string>; lone: Set<string> } {
  const having = (part: string) =>
    new Set(drawn.flatMap(({ key }) => (rows.some((row) => row[`${key} ${part}`] != null) ? [key] : [])));
  return { bounded: having("bounds"), lone: having("dot") };
}

/** How strong what is drawn of a series is where another is pointed at, and its bounds where it is. */
const DIM = { line: "0.25", area: "0.15", name: "0.3" };
const SEEN_BOUNDS = "0.2";

/** Lets the series step back that are not pointed at. */
function dim({ style }: HTMLElement, drawn: readonly Drawn[], pointed: Labels | null): void {
  for (const { key, series } of drawn) {
    const back = isDimmed(series.labels, pointed);
    for (const [part, value] of Object.entries(DIM)) {
      if (back) style.setProperty(`--${part}-${key}`, value);
      else style.removeProperty(`--${part}-${key}`);
    }
    if (pointed && !back) style.setProperty(`--bounds-${key}`, SEEN_BOUNDS);
    else style.removeProperty(`--bounds-${key}`);
  }
}

/** Values over time, drawn anew only with another answer: names at their ends, release marks, bounds as pale bands, one crosshair for the page. */
export const LineChart = memo(function LineChart({
  chart,
  marks = NO_MARKS,
  height = 240,
  thresholds = [],
  onName,
}: ChartProps) {
  const span = useMemo<Span>(() => ({ from: chart.from, to: chart.to }), [chart]);
  const hover = useHover();
  const { chooseWindow } = usePlace();
  const edges = useRef<PlotBox>({ left: 0, width: 1, top: 0, height: 0 });
  /** Of the frame, px; null until it is measured: a chart is drawn once, and not again at the width that it has. */
  const [width, setWidth] = useState<number | null>(null);
  const [drag, setDrag] = useState<{ from: number; to: number } | null>(null);
  const begun = useRef<number | null>(null);
  const frame = useRef<HTMLDivElement>(null);
  const endDrag = () => {
    begun.current = null;
    setDrag(null);
  };
  const { drawn, left, right, style } = chart;
  const rows = useMemo(() => rowsOf(chart), [chart]);
  const lines = style === "lines" ? drawn : [];
  const parts = useMemo(() => partsIn(rows, drawn), [rows, drawn]);
  useLayoutEffect(() => {
    const { current } = frame;
    if (!current) return;
    setWidth(current.clientWidth);
    const observer = new ResizeObserver(() => setWidth(current.clientWidth));
    observer.observe(current);
    return () => observer.disconnect();
  }, []);
  // Which series is pointed at is told to the style: of many charts none is drawn anew for it.
  useEffect(() => {
    const tell = () => frame.current && dim(frame.current, drawn, hover.labels.get());
    tell();
    return hover.labels.subscribe(tell);
  }, [hover.labels, drawn]);
  // What is pointed at is told to those who do not see it, without drawing the chart anew.
  useEffect(() => {
    const tell = () => {
      const moment = hover.moment.get();
      frame.current?.setAttribute("aria-valuenow", String(Math.round(moment ?? span.to)));
      if (moment === null) frame.current?.removeAttribute("aria-valuetext");
      else frame.current?.setAttribute("aria-valuetext", momentInWords(chart, moment));
    };
    tell();
    return hover.moment.subscribe(tell);
  }, [hover.moment, chart, span]);
  const longest = Math.max(
    chart.more > 0 ? 11 : 4,
    ...drawn.map(({ name, earlier }) => (earlier ? 0 : Math.min(MAX_LABEL, name.length))),
  );
  const labelWidth = 14 + longest * 6.8;
  const leftWidth = axisWidth(left);
  const rightWidth = right ? axisWidth(right) : 0;
  const room = (width ?? 0) - labelWidth - leftWidth - rightWidth;
  const wanted = Math.min(MAX_TIMES, Math.max(2, Math.floor(room / TIME_ROOM)));
  const axisProps = (axis: Axis) => ({
    ticks: axis.ticks,
    domain: [axis.ticks[0], axis.ticks[axis.ticks.length - 1]],
    scale: axis.log ? ("log" as const) : ("linear" as const),
    allowDataOverflow: true,
    tickFormatter: (value: number) => tickText(axis, value),
    tick: TICK,
    axisLine: false,
    tickLine: false,
  });

  const timeAt = (clientX: number, element: Element) => {
    const { left } = element.getBoundingClientRect();
    const part = (clientX - left - edges.current.left) / edges.current.width;
    return span.from + Math.min(1, Math.max(0, part)) * (span.to - span.from);
  };
  const inWindow = marks.filter(({ at }) => at > span.from && at <= span.to);
  // Two near each other turn their names away from each other; for a third there is no room.
  const named = nameRows(
    inWindow.map(({ at }) => at),
    CROWDED * (span.to - span.from),
    2,
  );

  return (
    <div
      ref={frame}
      role="slider"
      tabIndex={0}
      aria-label={`Moment in ${chart.label}`}
      aria-valuemin={span.from}
      aria-valuemax={span.to}
      aria-valuenow={span.to}
      className="relative touch-none outline-offset-2 select-none"
      style={{ height }}
      onKeyDown={(event) => {
        const next = walk(chart.times, hover.moment.get(), event.key, event.shiftKey);
        if (next === undefined) return;
        event.preventDefault();
        event.stopPropagation();
        hover.moment.set(next);
      }}
      onBlur={() => hover.moment.set(null)}
      onPointerMove={(event) => {
        const at = timeAt(event.clientX, event.currentTarget);
        hover.moment.set(at);
        if (begun.current === null) return;
        if (event.buttons === 0) return endDrag();
        // From here on the pointer may leave the chart, or the chart move away under it: the drag goes on.
        if (!event.currentTarget.hasPointerCapture(event.pointerId))
          event.currentTarget.setPointerCapture(event.pointerId);
        setDrag({ from: begun.current, to: at });
      }}
      onPointerLeave={() => hover.moment.set(null)}
      onPointerDown={(event) => {
        if (event.button === 0) begun.current = timeAt(event.clientX, event.currentTarget);
      }}
      onPointerUp={(event) => {
        const from = begun.current;
        endDrag();
        if (from === null) return;
        const to = timeAt(event.clientX, event.currentTarget);
        if (Math.abs(to - from) > (span.to - span.from) / 100)
          chooseWindow(fixed(Math.min(from, to), Math.max(from, to)));
      }}
      onPointerCancel={endDrag}
      onDoubleClick={() => window.history.back()}
    >
      {width !== null && width > 0 && (
        <ComposedChart
          width={width}
          height={height}
          data={rows}
          margin={{ top: 14, right: labelWidth, bottom: 0, left: 0 }}
          accessibilityLayer={false}
        >
          <PlotEdges edges={edges} />
          <CartesianGrid yAxisId="left" vertical={false} stroke="var(--color-base-300)" strokeOpacity={0.55} />
          <XAxis
            dataKey="time"
            type="number"
            domain={[span.from, span.to]}
            allowDataOverflow
            ticks={tickTimes(span.from, span.to, wanted)}
            tickFormatter={(at: number) => tick(at, span.to - span.from)}
            tick={TICK}
            stroke="var(--color-base-300)"
            tickLine={false}
          />
          <YAxis yAxisId="left" width={leftWidth} {...axisProps(left)} />
          {right && <YAxis yAxisId="right" orientation="right" width={rightWidth} {...axisProps(right)} />}
          {thresholds.map(({ at, word, value, wrong }) => {
            const level = value * left.writer.factor;
            const [bottom, top] = [left.ticks[0], left.ticks[left.ticks.length - 1]];
            const colour = wrong === "neither" ? "var(--color-secondary)" : "var(--color-error)";
            return [
              wrong !== "neither" && level < top && level > bottom && (
                <ReferenceArea
                  key={`${at} side`}
                  yAxisId="left"
                  y1={wrong === "above" ? level : bottom}
                  y2={wrong === "above" ? top : level}
                  fill={colour}
                  fillOpacity={0.06}
                />
              ),
              <ReferenceLine
                key={`${at} line`}
                yAxisId="left"
                y={level}
                stroke={colour}
                strokeDasharray="5 3"
                label={{
                  value: `${word} ${at}`,
                  position: "insideBottomLeft",
                  fontSize: 11,
                  fill: colour,
                  fontFamily: "var(--font-sans)",
                }}
              />,
            ];
          })}
          {style !== "lines" &&
            drawn.map(({ key, stroke, side }) => (
              <Area
                key={key}
                yAxisId={side}
                dataKey={key}
                stroke={stroke.colour}
                strokeWidth={style === "stacked" ? 1 : 0}
                fill={stroke.colour}
                fillOpacity={`var(--area-${key}, ${style === "stacked" ? 0.5 : 0.8})`}
                isAnimationActive={false}
                connectNulls={false}
                activeDot={false}
                type="linear"
              />
            ))}
          {lines
            .filter(({ key }) => parts.bounded.has(key))
            .map(({ key, stroke, side }) => (
              <Area
                key={`${key} bounds`}
                yAxisId={side}
                dataKey={`${key} bounds`}
                stroke="none"
                fill={stroke.colour}
                fillOpacity={`var(--bounds-${key}, ${drawn.length > 3 ? 0 : 0.09})`}
                isAnimationActive={false}
                connectNulls={false}
                activeDot={false}
                type="linear"
              />
            ))}
          {[...lines].reverse().map(({ key, stroke, side, earlier }) => (
            <Line
              key={key}
              yAxisId={side}
              strokeDasharray={earlier ? "2 4" : ""}
              dataKey={key}
              stroke={stroke.colour}
              strokeWidth={stroke.width}
              strokeOpacity={`var(--line-${key}, ${earlier ? 0.7 : 1})`}
              dot={
                parts.lone.has(key) &&
                ((dot) => <LoneDot {...dot} key={dot.key} lone={`${key} dot`} colour={stroke.colour} />)
              }
              activeDot={false}
              isAnimationActive={false}
              connectNulls={false}
              type="linear"
            />
          ))}
          {chart.unsettled &&
            [...lines]
              .reverse()
              .map(({ key, stroke, side }) => (
                <Line
                  key={`${key} fresh`}
                  yAxisId={side}
                  dataKey={`${key} fresh`}
                  stroke={stroke.colour}
                  strokeWidth={1}
                  strokeDasharray="3 3"
                  strokeOpacity={`var(--line-${key}, 0.8)`}
                  dot={false}
                  activeDot={false}
                  isAnimationActive={false}
                  connectNulls={false}
                  type="linear"
                />
              ))}
          {inWindow.map(({ release, at }, i) => (
            <ReferenceLine
              key={`${release} ${at}`}
              yAxisId="left"
              x={at}
              stroke="var(--color-neutral)"
              strokeWidth={1.5}
              label={{
                value: named[i] >= 0 ? shortName(release, MAX_LABEL) : "",
                position: namePosition({ release, at }, inWindow, span),
                fontSize: 11,
                fill: "var(--color-neutral)",
                fontFamily: "var(--font-mono)",
                offset: 3,
              }}
            />
          ))}
          {drag && Math.abs(drag.to - drag.from) > 0 && (
            <ReferenceArea
              yAxisId="left"
              x1={Math.min(drag.from, drag.to)}
              x2={Math.max(drag.from, drag.to)}
              fill="var(--color-primary)"
              fillOpacity={0.14}
            />
          )}
          <EndNames
            drawn={drawn}
            rows={rows}
            more={chart.more}
            offset={rightWidth}
            point={hover.labels.set}
            onName={onName}
          />
        </ComposedChart>
      )}
      <Crosshair chart={chart} edges={edges} labelWidth={labelWidth + rightWidth} />
    </div>
  );
});
