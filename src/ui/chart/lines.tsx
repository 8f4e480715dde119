"use client";

import { useMemo, useRef, useState, useSyncExternalStore } from "react";
import type { ReadingResult } from "@/core/reading/result";
import { Guard } from "../frame/guard";
import { useTimes } from "../query/times";
import { chartOf } from "./chartOf";
import type { ChartProps } from "./chartProps";
import { newestFirst } from "./colours";
import { MAX_COLOURED, MAX_LINES } from "./drawn";
import { LineChart } from "./lineChart";
import { ChartSkeleton } from "./skeleton";
import { standingChart } from "./standing";
import { useTurn } from "./turn";
import { ValueTable } from "./valueTable";

const USUAL_HEIGHT = 240;

const NEVER = () => () => {};

/** Whether a piece came with the document, where the server has drawn it. */
function useCameDrawn(): boolean {
  const coming = useSyncExternalStore(
    NEVER,
    () => false,
    () => true,
  );
  return useState(coming)[0];
}

/** A chart as it came with the document, until the browser's own has its turn. The browser leaves it as it is: it draws it no second time. */
function Standing({ chart, marks, height = USUAL_HEIGHT, thresholds }: ChartProps) {
  const clocks = useTimes();
  const [html] = useState(() =>
    typeof window === "undefined" ? standingChart(chart, height, clocks, marks, thresholds) : "",
  );
  return (
    <div
      role="img"
      aria-label={chart.label}
      data-standing
      className="relative"
      style={{ height }}
      suppressHydrationWarning
      // All that is not ours in it is escaped.
      dangerouslySetInnerHTML={{ __html: html }}
    />
  );
}

/** Charts over time, with a word where one cannot be drawn, and as a table on demand. */
export function TimeChart(props: ChartProps) {
  const [table, setTable] = useState(false);
  const frame = useRef<HTMLDivElement>(null);
  const width = useTurn(frame);
  const cameDrawn = useCameDrawn();
  return (
    <Guard what="This chart" again={props.chart}>
      <div ref={frame} className="group relative">
        {width === null && cameDrawn ? (
          <Standing {...props} />
        ) : width === null ? (
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
