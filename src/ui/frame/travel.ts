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
  const { choice, mark: visited, chooseWindow } = usePlace();
  const span = useSpan();
  const marks = useMarks();
  // From a live window the way goes back from now, from a fixed one from its middle.
  const current = visited ?? (span ? (choice.type === "last" ? span.to : (span.from + span.to) / 2) : 0);
  const before = span ? neighbourMark(marks, current, -1) : null;
  const after = span ? neighbourMark(marks, current, 1) : null;
  const go = useCallback(
    (direction: -1 | 1) => {
      const mark = direction === -1 ? before : after;
      if (mark && span) chooseWindow(aroundMark(mark.at, span.to - span.from, Date.now()), mark.at);
    },
    [before, after, span, chooseWindow],
  );
  return { before: before?.release ?? null, after: after?.release ?? null, go };
}
