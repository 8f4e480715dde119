import { useVirtualizer, type VirtualItem } from "@tanstack/react-virtual";
import { type Ref, type RefObject, useLayoutEffect, useState } from "react";
import type { Line } from "./lines";

/** Of a line before it is drawn, px; the head of a group has room above it. */
const HEIGHT = 24;
const HEAD_HEIGHT = 34;
/** A list of so many lines is drawn whole, so that the browser finds any word in it. */
const MAX_WHOLE = 300;

export interface DrawnLines {
  /** Whether all of them are drawn. */
  whole: boolean;
  items: readonly VirtualItem[];
  measure: Ref<HTMLTableRowElement>;
  /** The height of what is left out above and below, px. */
  above: number;
  below: number;
}

/** How far what holds an element has to be scrolled until the element is at its top, px. */
function topWithin(element: HTMLElement, scroller: HTMLElement): number {
  return element.getBoundingClientRect().top - scroller.getBoundingClientRect().top + scroller.scrollTop;
}

/**
 * Which lines of a long list are drawn: those near what is seen of it in the page.
 *
 * @param list what holds the lines
 */
export function useDrawnLines(lines: readonly Line[], list: RefObject<HTMLElement | null>): DrawnLines {
  const [margin, setMargin] = useState(0);
  const whole = lines.length <= MAX_WHOLE;
  const scroller = () => document.getElementById("main");
  const rows = useVirtualizer<HTMLElement, HTMLTableRowElement>({
    count: lines.length,
    getScrollElement: scroller,
    estimateSize: (i) => (lines[i].kind === "group" ? HEAD_HEIGHT : HEIGHT),
    getItemKey: (i) => lines[i].key,
    scrollMargin: margin,
    // The server draws the first lines without knowing how many there is room for.
    initialRect: { width: 1000, height: 700 },
    overscan: whole ? lines.length : 30,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: what stands above the list changes with what the page knows
  useLayoutEffect(() => {
    const around = scroller();
    if (list.current && around) setMargin(Math.round(topWithin(list.current, around)));
  }, [lines]);
  const items = rows.getVirtualItems();
  const first = items[0];
  const last = items[items.length - 1];
  return {
    whole,
    items,
    measure: rows.measureElement,
    above: first ? first.start - margin : 0,
    below: last ? rows.getTotalSize() - (last.end - margin) : 0,
  };
}
