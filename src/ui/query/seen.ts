"use client";

import { type RefObject, useEffect, useState } from "react";
import type { Span } from "@/core/window/window";
import { useSpan } from "./place";

/** Pieces this near to the screen count as on it, so that scrolling meets what is new. */
const NEAR = "200px";

/** The span that the page shows, for a piece of it: it moves on only while the piece is on the screen. */
export function useSpanWhileSeen(piece: RefObject<Element | null>): Span | null {
  const span = useSpan();
  const [seen, setSeen] = useState(true);
  const [held, setHeld] = useState(span);
  useEffect(() => {
    if (!piece.current) return;
    const observer = new IntersectionObserver(
      // Where it came and went between two frames, the last counts.
      (entries) => setSeen(entries[entries.length - 1].isIntersecting),
      { rootMargin: NEAR },
    );
    observer.observe(piece.current);
    return () => observer.disconnect();
  }, [piece]);
  if ((seen || held === null) && held !== span) setHeld(span);
  return seen ? span : (held ?? span);
}
