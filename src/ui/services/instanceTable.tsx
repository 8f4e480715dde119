import { count } from "../frame/amounts";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { Sideways } from "../frame/sideways";
import { environmentText, GroupRows, InstanceLine } from "./groupRows";
import type { InstanceGroup, InstanceRow, Sort } from "./rows";

const HEADS: readonly { head: string; sort: Sort | null }[] = [
  { head: "release and instance", sort: "name" },
  { head: "since", sort: null },
  { head: "last heard", sort: "silence" },
  { head: "points/min", sort: "points" },
  { head: "series", sort: "series" },
  { head: "memory", sort: "memory" },
  { head: "processor", sort: "processor" },
  { head: "garbage", sort: "garbage" },
  { head: "SDK", sort: null },
];

/** The environment of all instances of a group, in words; null where they have several. */
function sharedEnvironment({ rows }: InstanceGroup): string | null {
  const all = new Set(rows.map(environmentText));
  return all.size === 1 ? [...all][0] : null;
}

/** Instances in groups; each head sorts. */
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
  return (
    <Sideways label="Instances" className="plate px-3 py-2">
      <table className="w-full border-collapse text-[13px]">
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
        {groups.map((group) => {
          const together = sharedEnvironment(group);
          return (
            <tbody key={group.name} className="border-b border-base-300 last:border-b-0">
              <tr className="align-baseline">
                <th scope="rowgroup" colSpan={3} className="pt-2 pb-0.5 text-left">
                  {by === "service.name" ? (
                    <Link className="slot text-[15px] break-all" href={address(group.rows[0])}>
                      {group.name}
                    </Link>
                  ) : (
                    <span className="num">{group.name || `no ${by}`}</span>
                  )}
                  <span className="ml-2 font-normal text-muted">
                    {group.rows.length} {group.rows.length === 1 ? "instance" : "instances"}
                    {together !== null && ` ${together}`}
                    {group.silent > 0 && `, ${group.silent} silent`}
                  </span>
                </th>
                <td className="num pr-4 text-right text-muted">{count(group.pointsPerMinute)}</td>
                <td className="num pr-4 text-right text-muted">{count(group.series)}</td>
                <td colSpan={4} />
              </tr>
              <GroupRows
                group={group}
                columns={HEADS.length}
                line={(row) => (
                  <InstanceLine
                    key={`${row.service} ${row.environment} ${row.release} ${row.instance}`}
                    row={row}
                    now={now}
                    seconds={seconds}
                    ownEnvironment={together === null}
                    address={by === "service.name" ? null : address(row)}
                  />
                )}
              />
            </tbody>
          );
        })}
      </table>
    </Sideways>
  );
}
