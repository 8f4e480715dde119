"use client";

import { memo, useEffect, useMemo, useRef, useState } from "react";
import { MINUTE } from "@/core/window/lengths";
import { fixed, type Span } from "@/core/window/window";
import { duration, type Times } from "../frame/times";
import { useWidth } from "../frame/width";
import { usePlace } from "../query/place";
import { useTimes } from "../query/times";
import { Axes } from "./axes";
import { blanksOf } from "./blanks";
import type { ChartProps } from "./chartProps";
import { type Drawn, rowsOf } from "./drawn";
import { EndNames } from "./endNames";
import { Levels, Marks } from "./marks";
import { isDimmed, isInHand, type Labels, useHover } from "./pointing/hover";
import { Crosshair, momentInWords } from "./pointing/readout";
import { walk } from "./pointing/walk";
import { plotIn, sidesOf } from "./room";
import { acrossOf } from "./scales";
import { SeriesLayer } from "./seriesLayer";
import { loadFrame, useFrame } from "./useFrame";

/** Times along the bottom, and the room that each needs. */
const MAX_TIMES = 7;
const TIME_ROOM = 58;

/** Windows shorter than this are told to the second, ms. */
const TO_THE_SECOND = 10 * MINUTE;

const NO_MARKS: NonNullable<ChartProps["marks"]> = [];
const NO_LEVELS: NonNullable<ChartProps["thresholds"]> = [];

/** Lets the series step back that are not pointed at: what is drawn of them is told so, and nothing else. */
function dim(frame: HTMLElement, drawn: readonly Drawn[], pointed: Labels | null): void {
  const stands = new Map(
    drawn.map(({ key, series }) => [key, pointed && (isDimmed(series.labels, pointed) ? "back" : "front")]),
  );
  for (const piece of frame.querySelectorAll<SVGElement>("[data-of]")) {
    const how = stands.get(piece.dataset.of ?? "") ?? null;
    if (how === null) piece.removeAttribute("data-stands");
    else if (piece.dataset.stands !== how) piece.dataset.stands = how;
  }
}

/** What is said of a window that is being chosen: "14:05–14:32, 27 min". */
function wordsOf({ from, to }: Span, clocks: Times): string {
  const seconds = to - from < TO_THE_SECOND;
  return `${clocks.clock(from, seconds)}–${clocks.clock(to, seconds)}, ${duration(to - from)}`;
}

/** Values over time, drawn anew only with another answer: names at their ends, release marks, bounds as pale bands, one crosshair for the page. */
export const LineChart = memo(function LineChart({
  chart,
  marks = NO_MARKS,
  height = 240,
  thresholds = NO_LEVELS,
  onName,
  width: first,
}: ChartProps & {
  /** How wide it is when it is drawn first, px. */
  width: number;
}) {
  const clocks = useTimes();
  const span = useMemo<Span>(() => ({ from: chart.from, to: chart.to }), [chart]);
  const hover = useHover();
  const { chooseWindow } = usePlace();
  const [drag, setDrag] = useState<Span | null>(null);
  const begun = useRef<number | null>(null);
  const frame = useRef<HTMLDivElement>(null);
  const width = useWidth(frame, first);
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
      else slider.setAttribute("aria-valuetext", momentInWords(chart, moment, clocks));
    };
    tell();
    return hover.moment.subscribe(tell);
  }, [hover.moment, chart, span, clocks]);
  const sides = useMemo(() => sidesOf(chart), [chart]);
  const room = width - sides.names - sides.left - sides.right;
  const plot = useMemo(() => plotIn(height, sides.left, room), [sides.left, room, height]);
  const blanks = useMemo(() => blanksOf(chart, clocks), [chart, clocks]);
  const across = acrossOf(span, plot);
  const wanted = Math.min(MAX_TIMES, Math.max(2, Math.floor(room / TIME_ROOM)));
  const Frame = useFrame(drag !== null);
  const timeAt = (clientX: number, element: Element) => {
    const part = (clientX - element.getBoundingClientRect().left - plot.x) / plot.width;
    return span.from + Math.min(1, Math.max(0, part)) * (span.to - span.from);
  };
  const layers = (
    <>
      <Axes plot={plot} span={span} times={clocks.tickTimes(span.from, span.to, wanted)} left={left} right={right} />
      <Levels plot={plot} axis={left} thresholds={thresholds} />
      <SeriesLayer plot={plot} chart={chart} rows={rows} />
      <Marks plot={plot} span={span} marks={marks} />
      <EndNames plot={plot} chart={chart} rows={rows} offset={sides.right} point={hover.labels.set} onName={onName} />
    </>
  );

  return (
    <div
      ref={frame}
      role="slider"
      data-drawn={width > 0}
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
        setDrag({ from: Math.min(begun.current, at), to: Math.max(begun.current, at) });
      }}
      onPointerLeave={() => hover.moment.set(null)}
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        begun.current = timeAt(event.clientX, event.currentTarget);
        void loadFrame();
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
      {width > 0 &&
        (Frame && drag ? (
          <Frame size={{ width, height }} plot={plot} span={span} chosen={drag} words={wordsOf(drag, clocks)}>
            {layers}
          </Frame>
        ) : (
          // biome-ignore lint/a11y/noSvgWithoutTitle: the chart around it has a name
          <svg width={width} height={height} className="pointer-events-none overflow-visible">
            {layers}
          </svg>
        ))}
      {width > 0 &&
        blanks.map(({ from, to, words }) => (
          <p
            key={words}
            className="pointer-events-none absolute w-max -translate-1/2 bg-base-100 px-1 text-center text-[12px] leading-none text-secondary"
            style={{
              left: across((from + to) / 2),
              maxWidth: across(to) - across(from),
              top: plot.y + plot.height / 2,
            }}
          >
            {words}
          </p>
        ))}
      <Crosshair chart={chart} frame={frame} plot={plot} labelWidth={sides.names + sides.right} />
    </div>
  );
});
