import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, type RefObject, useLayoutEffect, useState } from "react";
import { LineBodies } from "./lineBodies";
import type { Drawn } from "./lineRows";
import type { Line } from "./lines";

/** Of a line before it is drawn, px; the head of a group has room above it. */
const HEIGHT = 24;
const HEAD_HEIGHT = 34;
/** Lines that are drawn above and below what is seen. */
const BEYOND = 30;

/** How far what holds an element has to be scrolled until the element is at its top, px. */
function topWithin(element: HTMLElement, scroller: HTMLElement): number {
  return element.getBoundingClientRect().top - scroller.getBoundingClientRect().top + scroller.scrollTop;
}

const scroller = () => document.getElementById("main");

/** The place of lines that are not drawn. */
function Left({ height }: { height: number }) {
  return (
    <tbody aria-hidden="true">
      <tr style={{ height }} />
    </tbody>
  );
}

/** Lines of which those are drawn that are near what is seen of them in the page. */
export function LongList({
  lines,
  list,
  row,
}: {
  lines: readonly Line[];
  /** What holds them. */
  list: RefObject<HTMLElement | null>;
  row: (line: Line, drawn?: Drawn) => ReactNode;
}) {
  const [margin, setMargin] = useState(0);
  const { getVirtualItems, getTotalSize, measureElement } = useVirtualizer<HTMLElement, HTMLTableRowElement>({
    count: lines.length,
    getScrollElement: scroller,
    estimateSize: (i) => (lines[i].kind === "group" ? HEAD_HEIGHT : HEIGHT),
    getItemKey: (i) => lines[i].key,
    scrollMargin: margin,
    // The first lines are drawn without knowing how many there is room for.
    initialRect: { width: 1000, height: 700 },
    overscan: BEYOND,
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: what stands above the list changes with what the page knows
  useLayoutEffect(() => {
    const around = scroller();
    if (list.current && around) setMargin(Math.round(topWithin(list.current, around)));
  }, [lines]);
  // An item may be a moment older than the lines, where some just went.
  const items = getVirtualItems().filter(({ index }) => index < lines.length);
  const [first, last] = [items[0], items[items.length - 1]];
  const above = first ? first.start - margin : 0;
  const below = last ? getTotalSize() - (last.end - margin) : 0;
  return (
    <>
      {above > 0 && <Left height={above} />}
      <LineBodies
        lines={items.map(({ index }) => lines[index])}
        drawn={items.map(({ index }) => ({ index, measure: measureElement }))}
        row={row}
      />
      {below > 0 && <Left height={below} />}
    </>
  );
}
