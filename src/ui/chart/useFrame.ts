"use client";

import { useEffect, useState } from "react";

type Frame = typeof import("./framed").FramedChart;

/** Loads the code of frames; a chart stays as it is where it cannot be had. */
export const loadFrame = () => import("./framed").catch(() => null);

/**
 * What frames a chart on which a window is being chosen. Its code is larger than all else that a page of charts needs, and a
 * frame takes longer to draw than what is in it: charts do without until then.
 *
 * @returns null where it is not wanted, or its code is not there
 */
export function useFrame(wanted: boolean): Frame | null {
  const [frame, setFrame] = useState<Frame | null>(null);
  useEffect(() => {
    if (!wanted) return;
    let gone = false;
    loadFrame().then((loaded) => {
      if (loaded && !gone) setFrame(() => loaded.FramedChart);
    });
    return () => {
      gone = true;
    };
  }, [wanted]);
  return wanted ? frame : null;
}
