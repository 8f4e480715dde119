import type { ReactNode } from "react";
import { Sideways } from "./sideways";

/** A column's head: its name, or the name of a column of buttons that only readers of the page's text need. */
export type Head = string | { name: string; right?: boolean; hidden?: boolean; wide?: boolean };

const styleOf = ({ right, wide }: Exclude<Head, string>) =>
  `py-1 pr-4 whitespace-nowrap last:pr-0 ${right ? "text-right" : ""} ${wide ? "w-full" : ""}`;

/** A table of a plate: heads in a row, thin lines between the rows. Rows are made with {@link Row}. */
export function Table({ heads, label, children }: { heads: readonly Head[]; label?: string; children: ReactNode }) {
  return (
    <Sideways label={label ?? "A table"}>
      <table aria-label={label} className="w-full border-collapse text-[13px]">
        <thead className="text-left">
          <tr className="border-b border-base-300">
            {heads.map((given) => {
              const head = typeof given === "string" ? { name: given } : given;
              return (
                <th key={head.name} scope="col" className={styleOf(head)}>
                  {head.hidden ? <span className="sr-only">{head.name}</span> : head.name}
                </th>
              );
            })}
          </tr>
        </thead>
        <tbody>{children}</tbody>
      </table>
    </Sideways>
  );
}

export function Row({ muted = false, children }: { muted?: boolean; children: ReactNode }) {
  const style = `border-b border-base-300/50 align-baseline last:border-b-0 ${muted ? "text-muted" : ""}`;
  return <tr className={style}>{children}</tr>;
}
