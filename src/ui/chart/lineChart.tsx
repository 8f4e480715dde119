"use client";

import { memo, type RefObject, useEffect, useMemo, useRef, useState } from "react";
import {
  Area,
  CartesianGrid,
  ComposedChart,
  Line,
  ReferenceArea,
  ReferenceLine,
  ResponsiveContainer,
  useOffset,
  usePlotArea,
  XAxis,
  YAxis,
} from "recharts";
import { digits, formOf } from "@/core/unit/format";
import { fixed, type Span } from "@/core/window/window";
import { shortName } from "../frame/names";
import { tick, tickTimes } from "../frame/times";
import { usePlace } from "../query/place";
import { strokesOf } from "./colours";
import { chosenSeries, type Drawn, MAX_COLOURED, MAX_LINES, type Row, rowsOf } from "./drawn";
import { EndNames } from "./endNames";
import { isDimmed, useHover } from "./hover";
import { MAX_LABEL, nameRows, seriesName } from "./labels";
import type { LinesProps } from "./linesProps";
import { Crosshair, momentInWords, type PlotBox } from "./readout";
import { valueTicks } from "./ticks";
import { walk } from "./walk";

/** Until it is measured. */
const DEFAULT_WIDTH = 800;
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

type Mark = NonNullable<LinesProps["marks"]>[number];

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

/** A reading as lines, drawn anew only with another answer: names at their ends, release marks, bounds as pale bands, one crosshair for the page. */
export const LineChart = memo(function LineChart({ result, marks = NO_MARKS, height = 240, all = false }: LinesProps) {
  const span = useMemo(() => ({ from: result.from, to: result.to }), [result]);
  const hover = useHover();
  const { chooseWindow } = usePlace();
  const edges = useRef<PlotBox>({ left: 0, width: 1, top: 0, height: 0 });
  const [width, setWidth] = useState(DEFAULT_WIDTH);
  const [drag, setDrag] = useState<{ from: number; to: number } | null>(null);
  const begun = useRef<number | null>(null);
  const chart = useRef<HTMLDivElement>(null);
  const endDrag = () => {
    begun.current = null;
    setDrag(null);
  };

  const series = useMemo(() => chosenSeries(result, all ? MAX_LINES : MAX_COLOURED), [result, all]);
  const drawn = useMemo<Drawn[]>(() => {
    const strokes = strokesOf(
      series,
      marks.map(({ release }) => release),
    );
    return series.map((one, i) => ({ series: one, stroke: strokes[i], key: `s${i}`, name: seriesName(one) }));
  }, [series, marks]);
  const { rows, ticks, form } = useMemo(() => {
    let low = 0;
    let high = 0;
    for (const one of series) {
      for (const value of one.values) {
        if (value === null) continue;
        if (value < low) low = value;
        if (value > high) high = value;
      }
    }
    const shape = formOf(result.unit, Math.max(Math.abs(low), Math.abs(high)), result.share);
    return {
      rows: rowsOf(result, drawn, shape.factor),
      ticks: valueTicks(low * shape.factor, high * shape.factor),
      form: shape,
    };
  }, [result, drawn, series]);
  // What is pointed at is told to those who do not see it, without drawing the chart anew.
  useEffect(() => {
    const tell = () => {
      const moment = hover.pointed.get();
      chart.current?.setAttribute("aria-valuenow", String(Math.round(moment ?? span.to)));
      if (moment === null) chart.current?.removeAttribute("aria-valuetext");
      else chart.current?.setAttribute("aria-valuetext", momentInWords(result, drawn, moment));
    };
    tell();
    return hover.pointed.subscribe(tell);
  }, [hover.pointed, result, drawn, span]);
  const longest = Math.max(
    result.series.length > drawn.length ? 11 : 4,
    ...drawn.map(({ name }) => Math.min(MAX_LABEL, name.length)),
  );
  const labelWidth = 14 + longest * 6.8;
  const valueLabel = (value: number) =>
    value === ticks[ticks.length - 1] ? `${digits(value)} ${form.suffix}` : digits(value);
  const axisWidth = Math.max(LEAST_AXIS, 14 + FIGURE * Math.max(...ticks.map((value) => valueLabel(value).length)));
  const wanted = Math.min(MAX_TIMES, Math.max(2, Math.floor((width - labelWidth - axisWidth) / TIME_ROOM)));

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
      ref={chart}
      role="slider"
      tabIndex={0}
      aria-label={`Moment in ${result.reading}`}
      aria-valuemin={span.from}
      aria-valuemax={span.to}
      aria-valuenow={span.to}
      className="relative touch-none outline-offset-2 select-none"
      style={{ height }}
      onKeyDown={(event) => {
        const next = walk(result.times, hover.pointed.get(), event.key, event.shiftKey);
        if (next === undefined) return;
        event.preventDefault();
        event.stopPropagation();
        hover.pointed.set(next);
      }}
      onBlur={() => hover.pointed.set(null)}
      onPointerMove={(event) => {
        const at = timeAt(event.clientX, event.currentTarget);
        hover.pointed.set(at);
        if (begun.current === null) return;
        if (event.buttons === 0) return endDrag();
        // From here on the pointer may leave the chart, or the chart move away under it: the drag goes on.
        if (!event.currentTarget.hasPointerCapture(event.pointerId))
          event.currentTarget.setPointerCapture(event.pointerId);
        setDrag({ from: begun.current, to: at });
      }}
      onPointerLeave={() => hover.pointed.set(null)}
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
      <ResponsiveContainer width="100%" height="100%" onResize={setWidth}>
        <ComposedChart
          data={rows}
          margin={{ top: 14, right: labelWidth, bottom: 0, left: 0 }}
          accessibilityLayer={false}
        >
          <PlotEdges edges={edges} />
          <CartesianGrid vertical={false} stroke="var(--color-base-300)" strokeOpacity={0.55} />
          <XAxis
            dataKey="time"
            type="number"
            domain={[span.from, span.to]}
            allowDataOverflow
            ticks={tickTimes(span.from, span.to, wanted)}
            tickFormatter={(at: number) => tick(at, span.to - span.from)}
            tick={{ fontSize: 11, fill: "var(--color-secondary)", fontFamily: "var(--font-mono)" }}
            stroke="var(--color-base-300)"
            tickLine={false}
          />
          <YAxis
            ticks={ticks}
            domain={[ticks[0], ticks[ticks.length - 1]]}
            allowDataOverflow
            width={axisWidth}
            tickFormatter={valueLabel}
            tick={{ fontSize: 11, fill: "var(--color-secondary)", fontFamily: "var(--font-mono)" }}
            axisLine={false}
            tickLine={false}
          />
          {drawn.map(({ key, stroke, series: one }) => (
            <Area
              key={`${key} bounds`}
              dataKey={`${key} bounds`}
              stroke="none"
              fill={stroke.colour}
              fillOpacity={hover.labels && !isDimmed(one.labels, hover.labels) ? 0.2 : drawn.length > 3 ? 0 : 0.09}
              isAnimationActive={false}
              connectNulls={false}
              activeDot={false}
              type="linear"
            />
          ))}
          {[...drawn].reverse().map(({ key, stroke, series: one }) => (
            <Line
              key={key}
              dataKey={key}
              stroke={stroke.colour}
              strokeWidth={stroke.width}
              strokeOpacity={isDimmed(one.labels, hover.labels) ? 0.25 : 1}
              dot={(dot) => <LoneDot {...dot} key={dot.key} lone={`${key} dot`} colour={stroke.colour} />}
              activeDot={false}
              isAnimationActive={false}
              connectNulls={false}
              type="linear"
            />
          ))}
          {result.settledTo !== null &&
            [...drawn]
              .reverse()
              .map(({ key, stroke, series: one }) => (
                <Line
                  key={`${key} fresh`}
                  dataKey={`${key} fresh`}
                  stroke={stroke.colour}
                  strokeWidth={1}
                  strokeDasharray="3 3"
                  strokeOpacity={isDimmed(one.labels, hover.labels) ? 0.25 : 0.8}
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
              x1={Math.min(drag.from, drag.to)}
              x2={Math.max(drag.from, drag.to)}
              fill="var(--color-primary)"
              fillOpacity={0.14}
            />
          )}
          <EndNames
            drawn={drawn}
            rows={rows}
            more={result.series.length - drawn.length}
            pointed={hover.labels}
            point={hover.setLabels}
          />
        </ComposedChart>
      </ResponsiveContainer>
      <Crosshair result={result} drawn={drawn} span={span} edges={edges} labelWidth={labelWidth} />
    </div>
  );
});
