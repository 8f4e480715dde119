"use client";

import { type RefObject, useLayoutEffect, useState } from "react";

/** How wide a piece of the page is, px; what is usual until it is measured: by an observer, which lays out no page for it. */
export function useWidth<T extends number | null>(piece: RefObject<HTMLElement | null>, usual: T): number | T {
  const [width, setWidth] = useState<number | T>(usual);
  useLayoutEffect(() => {
    if (!piece.current) return;
    const observer = new ResizeObserver(([entry]) => setWidth(entry.contentRect.width));
    observer.observe(piece.current);
    return () => observer.disconnect();
  }, [piece]);
  return width;
}
