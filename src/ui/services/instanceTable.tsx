import Link from "next/link";
import { digits, formatValue } from "@/core/unit/format";
import { DAY } from "@/core/window/lengths";
import { useCarried } from "../frame/navigation";
import { clock, dayWithYear, duration } from "../frame/times";
import { count } from "../store/amounts";
import type { InstanceGroup, InstanceRow, Sort } from "./rows";

/** A moment as short as it may be: the clock today, else the day. */
function since(time: number, now: number): string {
  return now - time < DAY ? clock(time) : dayWithYear(time);
}

function sdkOf({ attributes }: InstanceRow): string {
  const language = attributes["telemetry.sdk.language"] ?? "";
  const version = attributes["telemetry.sdk.version"] ?? "";
  return `${language} ${version}`.trim();
}

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

/** Percent of the last minutes spent on collecting garbage. */
function garbagePart(seconds: number | undefined, of: number): string {
  return seconds === undefined ? "—" : `${digits((seconds / of) * 100)} %`;
}

/** After this long an instance is rather gone than silent, ms. */
const GONE = 3600_000;

function Heard({ row, now }: { row: InstanceRow; now: number }) {
  if (row.silent > GONE) return <span className="text-muted">gone for {duration(row.silent)}</span>;
  if (row.silent > 0)
    return (
      <span className="text-warning">
        ▲ silent for <span className="num">{duration(row.silent)}</span>
      </span>
    );
  return <span className="num">{duration(Math.max(0, now - row.lastAt))} ago</span>;
}

function environmentText({ environment }: InstanceRow): string {
  return environment ? `in ${environment}` : "in no environment";
}

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
    <div className="plate overflow-x-auto px-3 py-2">
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
              <tr>
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
              {group.rows.map((row) => (
                <tr key={`${row.service} ${row.environment} ${row.release} ${row.instance}`} className="align-baseline">
                  <th scope="row" className="max-w-[22rem] py-0.5 pr-4 pl-4 text-left font-normal">
                    <span className="num font-semibold">{row.release || "no release"}</span>
                    <span className="num ml-2.5 break-all text-muted">{row.instance || "no instance id"}</span>
                    {together === null && <span className="ml-2 text-[12px] text-muted">{environmentText(row)}</span>}
                    {by !== "service.name" && (
                      <Link className="slot ml-2 break-all" href={address(row)}>
                        {row.service}
                      </Link>
                    )}
                  </th>
                  <td className="num pr-4 whitespace-nowrap">{since(row.firstAt, now)}</td>
                  <td className="pr-4 whitespace-nowrap">
                    <Heard row={row} now={now} />
                  </td>
                  <td className="num pr-4 text-right">{count(row.pointsPerMinute)}</td>
                  <td className="num pr-4 text-right">{count(row.series)}</td>
                  <td className="num pr-4 text-right whitespace-nowrap">
                    {row.vitals.memory === undefined ? "—" : formatValue(row.vitals.memory, "By")}
                  </td>
                  <td className="num pr-4 text-right whitespace-nowrap">
                    {row.vitals.processor === undefined ? "—" : `${digits(row.vitals.processor * 100)} %`}
                  </td>
                  <td className="num pr-4 text-right whitespace-nowrap">{garbagePart(row.vitals.garbage, seconds)}</td>
                  <td className="num whitespace-nowrap text-muted">{sdkOf(row) || "—"}</td>
                </tr>
              ))}
            </tbody>
          );
        })}
      </table>
    </div>
  );
}
