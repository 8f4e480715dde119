"use client";

import type { ReactNode } from "react";
import { ComposedChart, ReferenceArea, ReferenceLine, XAxis, YAxis } from "recharts";
import type { Span } from "@/core/window/window";
import { shortName } from "../frame/names";
import type { ChartProps } from "./chartProps";
import type { Axis } from "./drawn";
import { apart, MAX_LABEL, nameRows } from "./labels";
import type { Plot } from "./scales";

/** Marks of releases that are nearer than this part of the window are drawn as one. */
const APART = 0.008;
/** Marks nearer than this part of the window turn their names away from each other. */
const CROWDED = 0.07;
/** With more marks than these, a name has only its own room, px. */
const DENSE = 8;
const NAME_ROOM = 76;
const MAX_LABEL_DENSE = 10;

type Mark = NonNullable<ChartProps["marks"]>[number];

function namePosition(mark: Mark, all: readonly Mark[], span: Span): "top" | "insideTopLeft" | "insideTopRight" {
  const near = CROWDED * (span.to - span.from);
  if (all.some(({ at }) => at > mark.at && at - mark.at < near)) return "insideTopRight";
  if (all.some(({ at }) => at < mark.at && mark.at - at < near)) return "insideTopLeft";
  return "top";
}

// What stands along the axes is drawn by ourselves: the library is told where they begin and end, and no more.
const hidden = ({ ticks, log }: Axis) => ({
  hide: true,
  type: "number" as const,
  ticks,
  domain: [ticks[0], ticks[ticks.length - 1]],
  scale: log ? ("log" as const) : ("linear" as const),
  allowDataOverflow: true,
});

function levelsOf(thresholds: NonNullable<ChartProps["thresholds"]>, { ticks, writer }: Axis) {
  return thresholds.map(({ at, word, value, wrong }) => {
    const level = value * writer.factor;
    const [bottom, top] = [ticks[0], ticks[ticks.length - 1]];
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
  });
}

function releasesIn(marks: readonly Mark[], span: Span, room: number) {
  const window = span.to - span.from;
  const inWindow = apart(
    marks.filter(({ at }) => at > span.from && at <= span.to),
    ({ at }) => at,
    APART * window,
  );
  // Two near each other turn their names away from each other; for a third there is no room, and of many for one.
  const dense = inWindow.length > DENSE;
  const gap = dense ? Math.max(CROWDED, NAME_ROOM / Math.max(NAME_ROOM, room)) : CROWDED;
  const named = nameRows(
    inWindow.map(({ at }) => at),
    gap * window,
    dense ? 1 : 2,
  );
  return inWindow.map(({ release, at }, i) => (
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
  ));
}

/** A chart with what is marked on it: releases, levels that mean something, the window that is being chosen. */
export function FramedChart({
  size: { width, height },
  plot,
  span,
  axes: { left, right },
  marks,
  thresholds,
  chosen,
  below,
  above,
  children,
}: {
  size: { width: number; height: number };
  plot: Plot;
  span: Span;
  axes: { left: Axis; right: Axis | null };
  marks: readonly Mark[];
  thresholds: NonNullable<ChartProps["thresholds"]>;
  chosen: Span | null;
  /** What lies below the series, and above the marks. */
  below: ReactNode;
  above: ReactNode;
  children: ReactNode;
}) {
  return (
    <ComposedChart
      width={width}
      height={height}
      margin={{
        top: plot.y,
        right: width - plot.x - plot.width,
        bottom: height - plot.y - plot.height,
        left: plot.x,
      }}
      accessibilityLayer={false}
      // The frame hears the pointer; the library would look for what lies under it with each move.
      style={{ pointerEvents: "none" }}
    >
      <XAxis hide dataKey="time" type="number" domain={[span.from, span.to]} allowDataOverflow />
      <YAxis yAxisId="left" {...hidden(left)} />
      {right && <YAxis yAxisId="right" orientation="right" {...hidden(right)} />}
      {below}
      {levelsOf(thresholds, left)}
      {children}
      {releasesIn(marks, span, plot.width)}
      {chosen && Math.abs(chosen.to - chosen.from) > 0 && (
        <ReferenceArea
          yAxisId="left"
          x1={Math.min(chosen.from, chosen.to)}
          x2={Math.max(chosen.from, chosen.to)}
          fill="var(--color-primary)"
          fillOpacity={0.14}
        />
      )}
      {above}
    </ComposedChart>
  );
}
