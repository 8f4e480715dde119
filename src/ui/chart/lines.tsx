"use client";

import { lazy, Suspense, useState } from "react";
import { Guard } from "../frame/guard";
import type { LinesProps } from "./linesProps";
import { ChartSkeleton } from "./skeleton";
import { ValueTable } from "./valueTable";

const USUAL_HEIGHT = 240;

/** Asked for with the page, so that it is there with the first answer; the page itself does not wait for it. */
const asked = typeof window === "undefined" ? null : import("./lineChart");

const LineChart = lazy(async () => ({ default: (await (asked ?? import("./lineChart"))).LineChart }));

/** A reading as lines, with a word where it cannot be drawn. */
export function Lines(props: LinesProps) {
  const [table, setTable] = useState(false);
  return (
    <Guard what="This chart" again={props.result}>
      <div className="group relative">
        {table ? (
          <ValueTable result={props.result} height={props.height ?? USUAL_HEIGHT} />
        ) : (
          <Suspense fallback={<ChartSkeleton height={props.height} />}>
            <LineChart {...props} />
          </Suspense>
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
