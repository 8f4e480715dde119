"use client";

import { type RefObject, useLayoutEffect, useState } from "react";

/** How wide a piece of the page is, px; what is usual until it is measured: by an observer, which lays out no page for it. */
export function useWidth(piece: RefObject<HTMLElement | null>, usual: number): number {
  const [width, setWidth] = useState(usual);
  useLayoutEffect(() => {
    if (!piece.current) return;
    const observer = new ResizeObserver(([entry]) => setWidth(entry.contentRect.width));
    observer.observe(piece.current);
    return () => observer.disconnect();
  }, [piece]);
  return width;
}
