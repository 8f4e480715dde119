"use client";

import { useCallback } from "react";
import { aroundMark, neighbourMark } from "@/core/window/window";
import { usePlace, useSpan } from "../query/place";
import { useMarks } from "../query/use";

/** Going from release to release. */
export interface Travel {
  before: string | null;
  after: string | null;
  go: (direction: -1 | 1) => void;
}

export function useTravel(): Travel {
  const { chooseWindow } = usePlace();
  const span = useSpan();
  const marks = useMarks();
  // A window that a jump made has its release at a quarter: that is where the next jump starts from.
  const current = span ? span.from + (span.to - span.from) / 4 : 0;
  const slack = span ? (span.to - span.from) / 200 : 0;
  const before = span ? neighbourMark(marks, current - slack, -1) : null;
  const after = span ? neighbourMark(marks, current + slack, 1) : null;
  const go = useCallback(
    (direction: -1 | 1) => {
      const mark = direction === -1 ? before : after;
      if (mark && span) chooseWindow(aroundMark(mark.at, span.to - span.from, Date.now()));
    },
    [before, after, span, chooseWindow],
  );
  return { before: before?.release ?? null, after: after?.release ?? null, go };
}
