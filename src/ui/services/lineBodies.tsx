import type { ReactNode } from "react";
import type { Drawn } from "./lineRows";
import type { Line } from "./lines";

/** Lines of a list, those of a group together. */
export function LineBodies({
  lines,
  row,
  drawn,
}: {
  lines: readonly Line[];
  row: (line: Line, drawn?: Drawn) => ReactNode;
  /** What each is measured by, of a list that is drawn in part. */
  drawn?: readonly Drawn[];
}) {
  const runs: { of: Line["group"]; rows: ReactNode[] }[] = [];
  lines.forEach((line, i) => {
    if (runs[runs.length - 1]?.of !== line.group) runs.push({ of: line.group, rows: [] });
    runs[runs.length - 1].rows.push(row(line, drawn?.[i]));
  });
  return runs.map(({ of, rows }) => (
    <tbody key={of.name} className="border-b border-base-300 last:border-b-0">
      {rows}
    </tbody>
  ));
}
