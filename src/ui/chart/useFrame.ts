"use client";

import { type RefObject, useEffect, useState } from "react";
import { whenIdle } from "../frame/idle";
import { inTurn } from "./turn";

type Frame = typeof import("./framed").FramedChart;

/** Longest that the code of frames waits for an idle moment, ms. */
const PATIENCE = 300;
/** Charts that nobody sees get theirs after so long, ms: who prints the page, or scrolls through it, finds them. */
const UNSEEN = 5000;

/**
 * What frames a chart: the marks on it and around it. Its code is larger than all else that a page of charts needs, and a
 * frame takes longer to draw than what is in it: charts are there without, and each gets its frame in its turn, those on the
 * screen first.
 *
 * @returns null until then, and where the code cannot be had
 */
export function useFrame(chart: RefObject<Element | null>): Frame | null {
  const [frame, setFrame] = useState<Frame | null>(null);
  useEffect(() => {
    if (!chart.current) return;
    let giveBack = () => {};
    let gone = false;
    const load = () => {
      import("./framed").then(
        ({ FramedChart }) => {
          if (!gone) giveBack = inTurn(() => setFrame(() => FramedChart));
        },
        // A chart is worth more than what is marked on it: it stays as it is, and is framed where it is opened once more.
        () => {},
      );
    };
    const begin = () => {
      clearTimeout(unseen);
      observer.disconnect();
      whenIdle(load, PATIENCE);
    };
    const unseen = setTimeout(begin, UNSEEN);
    const observer = new IntersectionObserver((entries) => {
      if (entries.some(({ isIntersecting }) => isIntersecting)) begin();
    });
    observer.observe(chart.current);
    return () => {
      gone = true;
      clearTimeout(unseen);
      observer.disconnect();
      giveBack();
    };
  }, [chart]);
  return frame;
}
