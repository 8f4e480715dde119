import { useVirtualizer } from "@tanstack/react-virtual";
import type { ReactNode, RefObject } from "react";

/** Rows of one height of which only those near what is seen are drawn, in a body of a table. */
export function ManyRows({
  holder,
  count,
  height,
  row,
}: {
  /** What scrolls. */
  holder: RefObject<HTMLElement | null>;
  count: number;
  /** Of each row, px. */
  height: number;
  row: (index: number) => ReactNode;
}) {
  const shown = useVirtualizer({
    count,
    getScrollElement: () => holder.current,
    estimateSize: () => height,
    overscan: 12,
  }).getVirtualItems();
  const before = (shown[0]?.index ?? 0) * height;
  const after = shown.length === 0 ? 0 : (count - 1 - shown[shown.length - 1].index) * height;
  return (
    <>
      {before > 0 && <tr style={{ height: before }} />}
      {shown.map(({ index }) => row(index))}
      {after > 0 && <tr style={{ height: after }} />}
    </>
  );
}
