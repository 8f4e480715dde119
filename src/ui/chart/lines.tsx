"use client";

import { lazy, Suspense } from "react";
import { Guard } from "../frame/guard";
import type { LinesProps } from "./linesProps";
import { ChartSkeleton } from "./skeleton";

/** Asked for with the page, so that it is there with the first answer; the page itself does not wait for it. */
const asked = typeof window === "undefined" ? null : import("./lineChart");

const LineChart = lazy(async () => ({ default: (await (asked ?? import("./lineChart"))).LineChart }));

/** A reading as lines, with a word where it cannot be drawn. */
export function Lines(props: LinesProps) {
  return (
    <Guard what="This chart" again={props.result}>
      <Suspense fallback={<ChartSkeleton height={props.height} />}>
        <LineChart {...props} />
      </Suspense>
    </Guard>
  );
}
