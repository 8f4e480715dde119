"use client";

import { useMemo, useRef, useState } from "react";
import type { ReadingResult } from "@/core/reading/result";
import { Guard } from "../frame/guard";
import { chartOf } from "./chartOf";
import type { ChartProps } from "./chartProps";
import { newestFirst } from "./colours";
import { MAX_COLOURED, MAX_LINES } from "./drawn";
import { LineChart } from "./lineChart";
import { ChartSkeleton } from "./skeleton";
import { useTurn } from "./turn";
import { ValueTable } from "./valueTable";

const USUAL_HEIGHT = 240;

/** Charts over time, with a word where one cannot be drawn, and as a table on demand. */
export function TimeChart(props: ChartProps) {
  const [table, setTable] = useState(false);
  const frame = useRef<HTMLDivElement>(null);
  const width = useTurn(frame);
  return (
    <Guard what="This chart" again={props.chart}>
      <div ref={frame} className="group relative">
        {width === null ? (
          <ChartSkeleton height={props.height} />
        ) : table ? (
          <ValueTable chart={props.chart} height={props.height ?? USUAL_HEIGHT} />
        ) : (
          <LineChart {...props} width={width} />
        )}
        <button
          type="button"
          aria-pressed={table}
          className="slot absolute -top-9 right-0 bg-base-100 text-[12px] opacity-0 group-hover:opacity-100 focus:opacity-100 aria-pressed:opacity-100"
          onClick={() => setTable(!table)}
        >
          as a table
        </button>
      </div>
    </Guard>
  );
}

/** One reading as lines. */
export function Lines({
  result,
  marks,
  height,
  all = false,
}: {
  result: ReadingResult;
  /** Releases to mark, the newest first: their lines are the strongest. */
  marks?: readonly { release: string; at: number; version?: string }[];
  height?: number;
  /** Draws all series, not only as many as have a colour of their own. */
  all?: boolean;
}) {
  const chart = useMemo(
    () =>
      chartOf([{ text: result.reading, result }], {
        most: all ? MAX_LINES : MAX_COLOURED,
        releases: newestFirst(marks ?? []),
      }),
    [result, marks, all],
  );
  return <TimeChart chart={chart} marks={marks} height={height} />;
}
