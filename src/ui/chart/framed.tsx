"use client";

import type { ReactNode } from "react";
import { ComposedChart, ReferenceArea, XAxis, YAxis } from "recharts";
import type { Span } from "@/core/window/window";
import type { Plot } from "./scales";

/** A chart on which a window is being chosen: what is drawn of it, in a frame that knows its moments. */
export function FramedChart({
  size: { width, height },
  plot,
  span,
  chosen,
  words,
  children,
}: {
  size: { width: number; height: number };
  plot: Plot;
  span: Span;
  chosen: Span;
  /** What is said of the window. */
  words: string;
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
      // The chart around it hears the pointer; the library would look for what lies under it with each move.
      style={{ pointerEvents: "none" }}
    >
      <XAxis hide dataKey="time" type="number" domain={[span.from, span.to]} allowDataOverflow />
      <YAxis hide type="number" domain={[0, 1]} allowDataOverflow />
      {children}
      <ReferenceArea
        x1={chosen.from}
        x2={chosen.to}
        fill="var(--color-primary)"
        fillOpacity={0.14}
        label={{ value: words, position: "insideBottom", fontSize: 12, fill: "var(--color-primary)" }}
      />
    </ComposedChart>
  );
}
