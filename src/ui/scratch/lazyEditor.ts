"use client";

import { useEffect, useState } from "react";
import { whenIdle } from "../frame/idle";

type Editor = typeof import("../sentence/editor").ReadingEditor;

/** Longest that it waits for an idle moment after the answer, and for the answer, ms. */
const AFTER_ANSWER = 500;
const FOR_ANSWER = 1500;

/**
 * The editor of readings, whose code is larger than what draws the answer and comes after it; null until it is there.
 *
 * @param turn whether an answer is awaited, is there, or none is awaited
 */
export function useEditorAfter(turn: "awaited" | "answered" | "at once"): Editor | null {
  const [editor, setEditor] = useState<Editor | null>(null);
  useEffect(() => {
    const load = () => {
      import("../sentence/editor").then(
        ({ ReadingEditor }) => setEditor(() => ReadingEditor),
        // Told where the page tells of what breaks.
        (error) =>
          setEditor(() => {
            throw error;
          }),
      );
    };
    if (turn === "at once") load();
    else if (turn === "answered") whenIdle(load, AFTER_ANSWER);
    else {
      const timer = setTimeout(load, FOR_ANSWER);
      return () => clearTimeout(timer);
    }
  }, [turn]);
  return editor;
}
