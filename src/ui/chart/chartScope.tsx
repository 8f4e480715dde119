"use client";

import dynamic from "next/dynamic";
import type { ReactNode } from "react";
import { HoverScope } from "./pointing/hover";

/** Lets the document name what draws charts, so that it loads beside the page and not after it; the page does not wait for it. */
const ChartsAhead = dynamic(() => import("./lineChart").then((module) => module.NoChart));

/** Charts that share what is pointed at. */
export function ChartScope({ children }: { children: ReactNode }) {
  return (
    <HoverScope>
      <ChartsAhead />
      {children}
    </HoverScope>
  );
}
