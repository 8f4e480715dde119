import { lazy, Suspense, useMemo, useRef, useState } from "react";
import { useCarried } from "../frame/navigation";
import { Sideways } from "../frame/sideways";
import { LineBodies } from "./lineBodies";
import { type Drawn, environmentText, GroupLine, InstanceLine, PastLine, ReleaseLine } from "./lineRows";
import { type Line, linesOf } from "./lines";
import type { InstanceGroup, InstanceRow, Sort } from "./rows";

/** With how wide the column is, rem, where not all rows are there to tell; the first has what is left. */
const HEADS: readonly { head: string; sort: Sort | null; width?: number }[] = [
  { head: "release and instance", sort: "name" },
  { head: "since", sort: null, width: 6.5 },
  { head: "last heard", sort: "silence", width: 9.5 },
  { head: "points/min", sort: "points", width: 6 },
  { head: "series", sort: "series", width: 5 },
  { head: "memory", sort: "memory", width: 6.5 },
  { head: "processor", sort: "processor", width: 6.5 },
  { head: "garbage", sort: "garbage", width: 5.5 },
  { head: "SDK", sort: null, width: 7.5 },
];

/** The environment of all instances of a group, in words; null where they have several. */
function sharedEnvironment({ rows }: InstanceGroup): string | null {
  const all = new Set(rows.map(environmentText));
  return all.size === 1 ? [...all][0] : null;
}

/** A list of so many lines is drawn whole, so that the browser finds any word in it. */
const MAX_WHOLE = 300;
/** Lines that are drawn while the code for long lists comes. */
const FIRST = 60;

const LongList = lazy(async () => ({ default: (await import("./longList")).LongList }));

/** Instances in groups; each head sorts. Of a long list what is near what is seen is drawn. */
export function InstanceTable({
  groups,
  by,
  now,
  seconds,
  sort,
  onSort,
}: {
  groups: readonly InstanceGroup[];
  by: string;
  now: number;
  /** How long the span is that vital signs were read over. */
  seconds: number;
  sort: Sort;
  onSort: (sort: Sort) => void;
}) {
  const carried = useCarried();
  const address = ({ service, environment }: InstanceRow) => {
    const parameters = new URLSearchParams(carried.slice(1));
    parameters.set("service", service);
    if (environment) parameters.set("environment", environment);
    else parameters.delete("environment");
    return `/services/one?${parameters}`;
  };
  const [opened, setOpened] = useState<ReadonlySet<string>>(new Set());
  const toggle = (key: string) =>
    setOpened((before) => new Set(before.has(key) ? [...before].filter((one) => one !== key) : [...before, key]));
  const lines = useMemo(() => linesOf(groups, opened), [groups, opened]);
  const together = useMemo(() => new Map(groups.map((group) => [group, sharedEnvironment(group)])), [groups]);
  const table = useRef<HTMLTableElement>(null);
  const whole = lines.length <= MAX_WHOLE;
  const byService = by === "service.name";
  const row = (line: Line, drawn?: Drawn) => {
    const { key, group } = line;
    const shared = together.get(group) ?? null;
    switch (line.kind) {
      case "group":
        return (
          <GroupLine
            key={key}
            group={group}
            by={by}
            together={shared}
            address={byService ? address(group.rows[0]) : null}
            drawn={drawn}
          />
        );
      case "release":
        return (
          <ReleaseLine key={key} release={line.release} open={line.open} onOpen={() => toggle(key)} drawn={drawn} />
        );
      case "past":
        return (
          <PastLine
            key={key}
            instances={line.count}
            open={line.open}
            onOpen={() => toggle(key)}
            columns={HEADS.length}
            drawn={drawn}
          />
        );
      case "instance":
        return (
          <InstanceLine
            key={key}
            row={line.row}
            now={now}
            seconds={seconds}
            ownEnvironment={shared === null}
            address={byService ? null : address(line.row)}
            drawn={drawn}
          />
        );
    }
  };
  return (
    <Sideways label="Instances" className="plate px-3 py-2">
      <table ref={table} className={`w-full border-collapse text-[13px] ${whole ? "" : "min-w-[68rem] table-fixed"}`}>
        {!whole && (
          <colgroup>
            {HEADS.map(({ head, width }) => (
              <col key={head} style={width === undefined ? undefined : { width: `${width}rem` }} />
            ))}
          </colgroup>
        )}
        <thead className="text-left">
          <tr className="border-b border-base-300">
            {HEADS.map(({ head, sort: own }, i) => (
              <th
                key={head}
                scope="col"
                aria-sort={own === sort ? (own === "name" ? "ascending" : "descending") : undefined}
                className={`py-1 pr-4 whitespace-nowrap ${i > 2 && i < 8 ? "text-right" : ""}`}
              >
                {own ? (
                  <button type="button" className="font-bold hover:text-primary" onClick={() => onSort(own)}>
                    {head}
                    {own === sort && <span aria-hidden="true"> ▾</span>}
                  </button>
                ) : (
                  head
                )}
              </th>
            ))}
          </tr>
        </thead>
        {whole ? (
          <LineBodies lines={lines} row={row} />
        ) : (
          <Suspense fallback={<LineBodies lines={lines.slice(0, FIRST)} row={row} />}>
            <LongList lines={lines} list={table} row={row} />
          </Suspense>
        )}
      </table>
    </Sideways>
  );
}
