"use client";

import { useRef } from "react";
import type { LadderAnswer } from "@/core/api/releases";
import { changeBetween } from "@/core/reading/change";
import type { Percentile, Rung } from "@/core/reading/ladder";
import { digits, formatValue } from "@/core/unit/format";
import { ageStroke } from "../chart/colours";
import { axisTicks } from "../chart/logAxis";
import { Spark } from "../chart/spark";
import { shortName } from "../frame/names";
import { useCarried } from "../frame/navigation";
import { Sideways } from "../frame/sideways";
import { duration } from "../frame/times";
import { useWidth } from "../frame/width";
import { comparisonAddress } from "../query/compared";
import { useTimes } from "../query/times";
import { Announced } from "./announced";
import { ChangeCell } from "./changeCell";
import { HEAT_WIDTH, HeatStrip, LEAST_HEAT } from "./heatStrip";

/** Characters of a release that its column has room for. */
const MAX_RELEASE = 18;
const ERROR_WIDTH = 120;
/** Where the page is narrow: less room for errors, and their number below. */
const NARROW_ERRORS = 68;
const USUAL_WIDTH = 1066;
/** What all columns but the strip take, px. */
const OTHERS = 692;
/** What each measure of the team takes beside, px. */
const OWN = 104;
/** Texts of the axis nearer to its beginning than this begin where their value is, px. */
const AT_START = 22;
/** Below this the page is narrow, px. */
const NARROW = 900;

/** The end of the axis of error shares: a round share that holds them all. */
function errorAxis(rungs: readonly Rung[]): number {
  const most = Math.max(0, ...rungs.map(({ errors }) => errors ?? 0));
  return [0.001, 0.002, 0.005, 0.01, 0.02, 0.03, 0.05, 0.1, 0.2, 0.5].find((end) => end >= most) ?? 1;
}

function whenServed(rung: Rung, ladder: LadderAnswer): string {
  const heard = ladder.heard.find(({ release }) => release === (rung.release ?? ""));
  const started = heard && heard.firstAt > ladder.from - 1 ? heard.firstAt : null;
  if (rung.recentShare !== null) {
    const since = heard ? duration(ladder.to - heard.firstAt) : duration(ladder.to - rung.servedFrom);
    return started === null && !heard ? "serving" : `serving, ${since}`;
  }
  const from = heard?.firstAt ?? rung.servedFrom;
  const to = heard ? Math.min(heard.lastAt, rung.servedTo) : rung.servedTo;
  return `gone, ran ${duration(Math.max(0, to - from))}`;
}

function isWide({ value, low, high }: Percentile): boolean {
  return low === null || high === null || high - low > 0.1 * Math.abs(value);
}

function boundsInWords(bounded: Percentile | null, unit: string): string | null {
  if (!bounded || !isWide(bounded)) return null;
  const high = bounded.high === null ? "more" : formatValue(bounded.high, unit);
  return `its bucket: ${formatValue(bounded.low ?? 0, unit)} to ${high}`;
}

function ordinal(count: number): string {
  return ["", "1st", "2nd", "3rd"][count] ?? `${count}th`;
}

/** A service's releases, newest at the top: when they served, throughput, latency and errors on shared axes. */
export function LadderTable({ ladder }: { ladder: LadderAnswer }) {
  const { moment } = useTimes();
  const { rungs, axis, unit } = ladder;
  const carried = useCarried();
  const top = Math.max(...rungs.map(({ peak }) => peak));
  const errorEnd = errorAxis(rungs);
  const plate = useRef<HTMLDivElement>(null);
  const width = useWidth(plate, USUAL_WIDTH);
  const narrow = width < NARROW;
  const heatWidth = Math.round(
    Math.min(HEAT_WIDTH, Math.max(LEAST_HEAT, width - OTHERS - OWN * ladder.setting.columns.length)),
  );
  const errorWidth = narrow ? NARROW_ERRORS : ERROR_WIDTH;
  const ticks = axisTicks(axis, heatWidth, AT_START);
  return (
    <Sideways holder={plate} label="The ladder" className="plate">
      <table className="w-full border-collapse">
        <caption className="sr-only">Releases of {ladder.service}, newest first</caption>
        <thead>
          <tr className="border-b-[3px] border-primary text-left align-bottom">
            <th scope="col" className="py-2 pl-7">
              Release
            </th>
            <th scope="col" className="py-2">
              Throughput
            </th>
            <th scope="col" className="pt-2">
              Latency<span className="font-normal text-muted">, where its calls lie</span>
              <svg width={heatWidth} height={15} aria-hidden="true" className="block">
                {ticks.map(({ value, x }) => (
                  <text
                    key={value}
                    x={x}
                    y={11}
                    textAnchor={x < AT_START ? "start" : "middle"}
                    fontSize={11}
                    fontFamily="var(--font-mono)"
                    fontWeight={400}
                    fill="var(--color-secondary)"
                  >
                    {formatValue(value, unit)}
                  </text>
                ))}
              </svg>
            </th>
            <th scope="col" className="py-2 whitespace-nowrap">
              Errors{!narrow && <span className="font-normal text-muted">, share of calls</span>}
            </th>
            {ladder.setting.columns.map(({ name, reading }) => (
              <th key={name} scope="col" className="py-2 pr-4" title={reading}>
                {name}
              </th>
            ))}
            <th scope="col" className="py-2 pr-4">
              Change
            </th>
          </tr>
        </thead>
        <tbody>
          {rungs.map((rung, age) => {
            const stroke = ageStroke(age);
            const { change } = rung;
            const before = change ? rungs.find(({ release }) => release === change.against) : rungs[age + 1];
            const announced = ladder.announced.find(({ release }) => release === rung.release);
            const p95Bounds = boundsInWords(rung.p95, unit);
            return (
              <tr
                key={rung.release ?? ""}
                className={`border-b-[3px] border-base-300 align-middle last:border-b-0 ${age === 0 ? "bg-primary/8" : ""}`}
              >
                <th
                  scope="row"
                  className={`py-2 pl-3 text-left font-normal ${narrow ? "max-w-32 pr-2" : "pr-4 whitespace-nowrap"}`}
                >
                  <div className="border-l-[3px] border-double border-secondary/60 pl-3.5">
                    <p
                      className="num max-w-52 truncate text-[18px] leading-tight font-semibold"
                      title={rung.release ?? undefined}
                    >
                      {rung.release === null ? (
                        <span className="text-muted">no release</span>
                      ) : (
                        shortName(rung.release, MAX_RELEASE)
                      )}
                    </p>
                    <p
                      className="text-[12px] text-muted"
                      title={`in this window from ${moment(rung.servedFrom)} to ${moment(rung.servedTo)}`}
                    >
                      {whenServed(rung, ladder)}
                      {rung.stays.length > 1 && `, its ${ordinal(rung.stays.length)} stay here`}
                    </p>
                    {announced && <Announced announced={announced} share={rung.recentShare} />}
                  </div>
                </th>
                <td className={`py-2 ${narrow ? "pr-2" : "pr-4"}`}>
                  <Spark values={rung.throughput} top={top} colour={stroke.colour} />
                  <p className="num text-[12.5px] whitespace-nowrap">
                    {rung.recentShare !== null && rung.recentRate !== null
                      ? `${digits(rung.recentShare * 100)} %, ${digits(rung.recentRate)} /s`
                      : `peak ${digits(rung.peak)} /s`}
                  </p>
                </td>
                <td className={`py-1.5 ${narrow ? "pr-2" : "pr-5"}`}>
                  <HeatStrip
                    axis={axis}
                    heat={rung.heat}
                    p50={rung.p50}
                    p95={rung.p95}
                    unit={unit}
                    colour={stroke.colour}
                    width={heatWidth}
                  />
                  {p95Bounds && (
                    <p className="text-right text-[11px] leading-tight text-muted" style={{ width: heatWidth }}>
                      p95 lies in {p95Bounds}
                    </p>
                  )}
                </td>
                <td className={`py-2 ${narrow ? "pr-2" : "pr-4"}`}>
                  <svg width={errorWidth} height={16} aria-hidden="true">
                    <line x1={2} x2={errorWidth - 2} y1={8} y2={8} stroke="var(--color-base-300)" />
                    {[0, 0.5, 1].map((part) => (
                      <line
                        key={part}
                        x1={2 + part * (errorWidth - 4)}
                        x2={2 + part * (errorWidth - 4)}
                        y1={4}
                        y2={12}
                        stroke="var(--color-base-300)"
                      />
                    ))}
                    {rung.errorBounds && (
                      <rect
                        x={2 + Math.min(1, rung.errorBounds.low / errorEnd) * (errorWidth - 4)}
                        y={5}
                        width={Math.max(
                          1,
                          (Math.min(1, rung.errorBounds.high / errorEnd) -
                            Math.min(1, rung.errorBounds.low / errorEnd)) *
                            (errorWidth - 4),
                        )}
                        height={6}
                        fill={stroke.colour}
                        fillOpacity={0.35}
                      />
                    )}
                    <rect
                      x={2 + ((rung.errors ?? 0) / errorEnd) * (errorWidth - 4) - 2.5}
                      y={1}
                      width={5}
                      height={14}
                      fill={stroke.colour}
                    />
                  </svg>
                  <p
                    className="num text-[12.5px]"
                    title={
                      rung.errorBounds
                        ? `between ${digits(rung.errorBounds.low * 100)} and ${digits(rung.errorBounds.high * 100)} %, with 99 %`
                        : undefined
                    }
                  >
                    {/* Where there is no room for both, the calls take a line of their own: on a narrow page at once. */}
                    <span className="whitespace-nowrap">
                      {rung.errors === null ? "no data" : `${digits(rung.errors * 100)} %`}
                    </span>{" "}
                    <span className={`whitespace-nowrap text-muted ${narrow ? "block" : ""}`}>
                      of {digits(Math.round(rung.calls))}
                    </span>
                  </p>
                  {age === 0 && <p className="num text-[10.5px] text-muted">axis to {digits(errorEnd * 100)} %</p>}
                </td>
                {ladder.setting.columns.map(({ name }, i) => (
                  <td key={name} className="num py-2 pr-4 text-[12.5px] whitespace-nowrap">
                    {rung.columns[i] === null ? (
                      <span className="text-muted">no data</span>
                    ) : (
                      formatValue(rung.columns[i], ladder.columnForms[i].unit, ladder.columnForms[i].share)
                    )}
                  </td>
                ))}
                <td className={`py-2 text-[12.5px] ${narrow ? "max-w-28 pr-2" : "pr-4 whitespace-nowrap"}`}>
                  <ChangeCell
                    change={before ? changeBetween(rung, before) : null}
                    judged={rung.change}
                    before={before}
                    address={
                      rung.release && before?.release
                        ? comparisonAddress(carried, { ...ladder, release: rung.release, against: before.release })
                        : null
                    }
                  />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </Sideways>
  );
}
