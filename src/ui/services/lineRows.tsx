import type { Ref } from "react";
import { digits, formatValue } from "@/core/unit/format";
import { DAY, HOUR } from "@/core/window/lengths";
import { count } from "../frame/amounts";
import Link from "../frame/link";
import { ago, duration } from "../frame/times";
import { useTimes } from "../query/times";
import { MAX_PAST } from "./lines";
import type { InstanceGroup, InstanceRow, ReleaseRows } from "./rows";

/** What a row of a list that is drawn in part is measured by. */
export interface Drawn {
  /** Which line of the list it is. */
  index: number;
  measure: Ref<HTMLTableRowElement>;
}

function sdkOf({ attributes }: InstanceRow): string {
  const language = attributes["telemetry.sdk.language"] ?? "";
  const version = attributes["telemetry.sdk.version"] ?? "";
  return `${language} ${version}`.trim();
}

/** Percent of the last minutes spent on collecting garbage. */
function garbagePart(seconds: number | undefined, of: number): string {
  return seconds === undefined ? "—" : `${digits((seconds / of) * 100)} %`;
}

/** After this long an instance is rather gone than silent, ms. */
const GONE = HOUR;

function Heard({ row, now }: { row: InstanceRow; now: number }) {
  if (row.silent > GONE) return <span className="text-muted">gone for {duration(row.silent)}</span>;
  if (row.silent > 0)
    return (
      <span className="text-warning">
        ◆ silent for <span className="num">{duration(row.silent)}</span>
      </span>
    );
  return <span className="num">{ago(row.lastAt, now)}</span>;
}

export function environmentText({ environment }: InstanceRow): string {
  return environment ? `in ${environment}` : "in no environment";
}

/** One instance. @param address of its service, where it is not told by the group; null else */
export function InstanceLine({
  row,
  now,
  seconds,
  ownEnvironment,
  address,
  drawn,
}: {
  row: InstanceRow;
  now: number;
  seconds: number;
  ownEnvironment: boolean;
  address: string | null;
  drawn?: Drawn;
}) {
  const { clock, dayWithYear } = useTimes();
  return (
    <tr ref={drawn?.measure} data-index={drawn?.index} className="align-baseline">
      <th scope="row" className="max-w-[22rem] py-0.5 pr-4 pl-4 text-left font-normal">
        <span className="num font-semibold">{row.release || "no release"}</span>
        <span className="num ml-2.5 break-all text-muted">{row.instance || "no instance id"}</span>
        {ownEnvironment && <span className="ml-2 text-[12px] text-muted">{environmentText(row)}</span>}
        {address !== null && (
          <Link className="slot ml-2 break-all" href={address}>
            {row.service}
          </Link>
        )}
      </th>
      <td className="num pr-4 whitespace-nowrap">
        {now - row.firstAt < DAY ? clock(row.firstAt) : dayWithYear(row.firstAt)}
      </td>
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
  );
}

/** The greatest of a vital sign among instances, in words; "—" where none has it. */
function greatest(rows: readonly InstanceRow[], vital: "memory" | "processor"): string {
  const values = rows.flatMap(({ vitals }) => vitals[vital] ?? []);
  if (values.length === 0) return "—";
  const most = values.reduce((a, b) => Math.max(a, b));
  return `up to ${vital === "memory" ? formatValue(most, "By") : `${digits(most * 100)} %`}`;
}

/** Many instances of one release in one row, which opens. */
export function ReleaseLine({
  release,
  open,
  onOpen,
  drawn,
}: {
  release: ReleaseRows;
  open: boolean;
  onOpen: () => void;
  drawn?: Drawn;
}) {
  const { rows } = release;
  const silent = rows.filter((row) => row.silent > 0).length;
  const sum = (of: (row: InstanceRow) => number) => rows.reduce((total, row) => total + of(row), 0);
  return (
    <tr ref={drawn?.measure} data-index={drawn?.index} className="align-baseline">
      <th scope="row" className="max-w-[22rem] py-0.5 pr-4 pl-4 text-left font-normal">
        <span className="num font-semibold">{release.release || "no release"}</span>
        <button type="button" className="slot ml-2.5" aria-expanded={open} onClick={onOpen}>
          {rows.length} instances
        </button>
      </th>
      <td />
      <td className="pr-4 whitespace-nowrap">
        {silent === 0 ? "all report" : <span className="text-warning">◆ {silent} silent</span>}
      </td>
      <td className="num pr-4 text-right">{count(sum((row) => row.pointsPerMinute))}</td>
      <td className="num pr-4 text-right">{count(sum((row) => row.series))}</td>
      <td className="num pr-4 text-right whitespace-nowrap">{greatest(rows, "memory")}</td>
      <td className="num pr-4 text-right whitespace-nowrap">{greatest(rows, "processor")}</td>
      <td />
      <td className="num whitespace-nowrap text-muted">{sdkOf(rows[0]) || "—"}</td>
    </tr>
  );
}

/** How many instances there are of releases that no longer serve; opens. */
export function PastLine({
  instances,
  open,
  onOpen,
  columns,
  drawn,
}: {
  instances: number;
  open: boolean;
  onOpen: () => void;
  columns: number;
  drawn?: Drawn;
}) {
  return (
    <tr ref={drawn?.measure} data-index={drawn?.index}>
      <td colSpan={columns} className="py-0.5 pl-4 text-muted">
        <button type="button" className="slot" aria-expanded={open} onClick={onOpen}>
          {instances} {instances === 1 ? "instance" : "instances"} of earlier releases
        </button>{" "}
        {instances === 1 ? "is" : "are"} silent
        {open && instances > MAX_PAST && `; the ${MAX_PAST} heard last are shown`}
      </td>
    </tr>
  );
}

/** The head of a group, with its sums. */
export function GroupLine({
  group,
  by,
  together,
  address,
  drawn,
}: {
  group: InstanceGroup;
  by: string;
  /** The environment of all its instances, in words; null where they have several. */
  together: string | null;
  /** Of the service that it is; null where it is grouped by something else. */
  address: string | null;
  drawn?: Drawn;
}) {
  return (
    <tr ref={drawn?.measure} data-index={drawn?.index} className="align-baseline">
      <th scope="rowgroup" colSpan={3} className="pt-2 pb-0.5 text-left">
        {address !== null ? (
          <Link className="slot text-[15px] break-all" href={address}>
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
  );
}
