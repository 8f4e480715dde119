"use client";

import { memo, type RefObject, useEffect, useMemo, useRef, useState } from "react";
import { ComposedChart, ReferenceArea, ReferenceLine, usePlotArea, XAxis, YAxis } from "recharts";
import { fixed, type Span } from "@/core/window/window";
import { shortName } from "../frame/names";
import { tickTimes } from "../frame/times";
import { useWidth } from "../frame/width";
import { usePlace } from "../query/place";
import { Axes, axisWidth, TIMES_HEIGHT } from "./axes";
import type { ChartProps } from "./chartProps";
import { type Axis, type Drawn, rowsOf } from "./drawn";
import { EndNames } from "./endNames";
import { apart, MAX_LABEL, nameRows } from "./labels";
import { isDimmed, isInHand, type Labels, useHover } from "./pointing/hover";
import { Crosshair, momentInWords, type PlotBox } from "./pointing/readout";
import { walk } from "./pointing/walk";
import { SeriesLayer } from "./seriesLayer";

/** Times along the bottom, and the room that each needs. */
const MAX_TIMES = 7;
const TIME_ROOM = 58;

/** Marks of releases that are nearer than this part of the window are drawn as one. */
const APART = 0.008;
/** Marks nearer than this part of the window turn their names away from each other. */
const CROWDED = 0.07;
/** With more marks than these, a name has only its own room, px. */
const DENSE = 8;
const NAME_ROOM = 76;
const MAX_LABEL_DENSE = 10;

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
  if (plot) edges.current = { left: plot.x, width: plot.width, top: plot.y, height: plot.height };
  return null;
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
  const [drag, setDrag] = useState<{ from: number; to: number } | null>(null);
  const begun = useRef<number | null>(null);
  const frame = useRef<HTMLDivElement>(null);
  // Until it is measured there is no chart: it is drawn once, and not again at the width that it has.
  const width = useWidth(frame, null);
  const endDrag = () => {
    begun.current = null;
    setDrag(null);
  };
  const { drawn, left, right } = chart;
  const rows = useMemo(() => rowsOf(chart), [chart]);
  // Which series is pointed at is told to the style: of many charts none is drawn anew for it, and those off the screen hear
  // of it when they come on it.
  useEffect(() => {
    const { current } = frame;
    if (!current) return;
    let seen = true;
    const tell = () => seen && dim(current, drawn, hover.labels.get());
    const observer = new IntersectionObserver((entries) => {
      seen = entries[entries.length - 1].isIntersecting;
      tell();
    });
    observer.observe(current);
    const end = hover.labels.subscribe(tell);
    return () => {
      end();
      observer.disconnect();
    };
  }, [hover.labels, drawn]);
  // What is pointed at is told to those who do not see it, without drawing the chart anew: by the chart that is in hand.
  useEffect(() => {
    const tell = () => {
      const slider = frame.current;
      if (!slider) return;
      const moment = isInHand(slider) ? hover.moment.get() : null;
      slider.setAttribute("aria-valuenow", String(Math.round(moment ?? span.to)));
      if (moment === null) slider.removeAttribute("aria-valuetext");
      else slider.setAttribute("aria-valuetext", momentInWords(chart, moment));
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
  // What stands along the axes is drawn by ourselves: the library is told where they begin and end, and no more.
  const hidden = (axis: Axis) => ({
    hide: true,
    type: "number" as const,
    ticks: axis.ticks,
    domain: [axis.ticks[0], axis.ticks[axis.ticks.length - 1]],
    scale: axis.log ? ("log" as const) : ("linear" as const),
    allowDataOverflow: true,
  });

  const timeAt = (clientX: number, element: Element) => {
    const { left } = element.getBoundingClientRect();
    const part = (clientX - left - edges.current.left) / edges.current.width;
    return span.from + Math.min(1, Math.max(0, part)) * (span.to - span.from);
  };
  const inWindow = apart(
    marks.filter(({ at }) => at > span.from && at <= span.to),
    ({ at }) => at,
    APART * (span.to - span.from),
  );
  // Two near each other turn their names away from each other; for a third there is no room, and of many for one.
  const dense = inWindow.length > DENSE;
  const gap = dense ? Math.max(CROWDED, NAME_ROOM / Math.max(NAME_ROOM, room)) : CROWDED;
  const named = nameRows(
    inWindow.map(({ at }) => at),
    gap * (span.to - span.from),
    dense ? 1 : 2,
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
          margin={{ top: 14, right: labelWidth + rightWidth, bottom: TIMES_HEIGHT, left: leftWidth }}
          accessibilityLayer={false}
          // The frame hears the pointer; the library would look for what lies under it with each move.
          style={{ pointerEvents: "none" }}
        >
          <PlotEdges edges={edges} />
          <XAxis hide dataKey="time" type="number" domain={[span.from, span.to]} allowDataOverflow />
          <YAxis yAxisId="left" {...hidden(left)} />
          {right && <YAxis yAxisId="right" orientation="right" {...hidden(right)} />}
          <Axes span={span} times={tickTimes(span.from, span.to, wanted)} left={left} right={right} />
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
          <SeriesLayer chart={chart} rows={rows} />
          {inWindow.map(({ release, at }, i) => (
            <ReferenceLine
              key={`${release} ${at}`}
              yAxisId="left"
              x={at}
              stroke="var(--color-neutral)"
              strokeWidth={1.5}
              label={{
                value: named[i] >= 0 ? shortName(release, dense ? MAX_LABEL_DENSE : MAX_LABEL) : "",
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
          <EndNames chart={chart} rows={rows} offset={rightWidth} point={hover.labels.set} onName={onName} />
        </ComposedChart>
      )}
      <Crosshair chart={chart} frame={frame} edges={edges} labelWidth={labelWidth + rightWidth} />
    </div>
  );
});

/** Draws nothing: stands on pages that will have charts, for what draws them to be loaded. */
export function NoChart() {
  return null;
}
