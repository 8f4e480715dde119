"use client";

import type { InstrumentAnswer } from "@/core/api/instruments";
import { formatValue } from "@/core/unit/format";
import { count } from "../frame/amounts";
import { Row, Table } from "../frame/table";
import { useTimes } from "../query/times";

const SHOWN = 12;

/** How many series each release makes, the newest release first. */
export function SeriesByRelease({ data }: { data: InstrumentAnswer }) {
  const { moment } = useTimes();
  const most = Math.max(1, ...data.byRelease.map(({ series }) => series));
  return (
    <section className="plate px-3 py-2">
      <h2 className="font-bold">Series by release</h2>
      <table className="mt-1 w-full border-collapse text-[13px]">
        <tbody>
          {data.byRelease.slice(0, SHOWN).map(({ service, environment, release, series, lastAt }) => (
            <tr key={`${service} ${environment} ${release}`}>
              <th scope="row" className="py-0.5 pr-3 text-left font-normal whitespace-nowrap">
                {service} <span className="num font-semibold">{release || "no release"}</span>
              </th>
              <td className="num w-16 pr-3 text-right">{count(series)}</td>
              <td className="w-full">
                <span
                  aria-hidden
                  className="block h-[7px] bg-secondary"
                  style={{ width: `${(100 * series) / most}%` }}
                />
              </td>
              <td className="num pl-3 text-right whitespace-nowrap text-muted">
                {lastAt === null ? "" : moment(lastAt)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {data.byRelease.length > SHOWN && (
        <p className="text-muted">and {data.byRelease.length - SHOWN} older releases</p>
      )}
    </section>
  );
}

/** How many series the instances made that were heard on each day. */
export function SeriesByDay({ data }: { data: InstrumentAnswer }) {
  const { dayWithYear } = useTimes();
  const most = Math.max(1, ...data.byDay.map(({ series }) => series));
  const last = data.byDay[data.byDay.length - 1];
  return (
    <section className="plate px-3 py-2">
      <h2 className="font-bold">Series by day</h2>
      {data.byDay.length === 0 ? (
        <p className="text-muted">No instance with it was heard in the last 30 days.</p>
      ) : (
        <>
          <div className="mt-2 flex h-24 items-end gap-[3px]">
            {data.byDay.map(({ day, series }) => (
              <span
                key={day}
                role="img"
                aria-label={`${dayWithYear(day)}: ${count(series)} series`}
                title={`${dayWithYear(day)}: ${count(series)} series`}
                className={`min-w-1 flex-1 ${day === last.day ? "bg-primary" : "bg-secondary/60"}`}
                style={{ height: `${Math.max(2, (100 * series) / most)}%` }}
              />
            ))}
          </div>
          <p className="num flex justify-between text-[11.5px] text-muted">
            <span>{dayWithYear(data.byDay[0].day)}</span>
            <span>at most {count(most)}</span>
            <span>{dayWithYear(last.day)}</span>
          </p>
        </>
      )}
    </section>
  );
}

/** Measurements that were kept with their trace. */
export function Exemplars({ data }: { data: InstrumentAnswer }) {
  const { moment } = useTimes();
  const unit = data.variants[0]?.unit ?? "";
  if (data.exemplars.length === 0)
    return (
      <div className="plate p-3">
        <h2 className="font-bold">No exemplars</h2>
        <p className="text-muted">
          An SDK adds them where a measurement is recorded inside a sampled span; a scrape target where it writes them
          after a value.
        </p>
      </div>
    );
  return (
    <section aria-label="Exemplars" className="plate px-3 py-2">
      <Table heads={["at", { name: "value", right: true }, "trace", "attributes"]}>
        {data.exemplars.map((one) => (
          <Row key={`${one.at} ${one.traceId} ${one.spanId} ${one.value}`}>
            <td className="num py-0.5 pr-4 whitespace-nowrap">{moment(one.at)}</td>
            <td className="num pr-4 text-right whitespace-nowrap">{formatValue(one.value, unit)}</td>
            <td className="num pr-4 text-[12px]">{one.traceId || "—"}</td>
            <td className="num text-[12px] break-all">
              {Object.entries(one.attributes)
                .map(([key, value]) => `${key}=${value}`)
                .join(" ")}
            </td>
          </Row>
        ))}
      </Table>
    </section>
  );
}
