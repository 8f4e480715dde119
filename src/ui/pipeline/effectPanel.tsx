"use client";

import { useState } from "react";
import type { Effect, MetricEffect, Trace } from "@/core/pipeline/effect";
import type { Amounts } from "@/core/pipeline/tallies";
import { Blank } from "../add/blank";
import { ProblemNote } from "../frame/problemNote";
import { Row, Table } from "../frame/table";
import { duration } from "../frame/times";
import { Slot } from "../sentence/slot";
import { count, size } from "../store/amounts";
import { ReadingsPanel } from "./readingsPanel";
import type { Tried } from "./useEffectOfDraft";

const MINUTE = 60_000;
const MONTH = 30 * 24 * 60 * MINUTE;
const SHOWN = 12;

function change(before: number, after: number): string {
  if (before === 0 || before === after) return "";
  const part = (100 * (after - before)) / before;
  return `${part > 0 ? "+" : "−"}${Math.abs(part).toFixed(1)} %`;
}

/** A price as the team pays it, remembered in this browser. */
function usePrice(name: string, first: string): [string, (price: string) => void] {
  const [price, setPrice] = useState(() =>
    typeof localStorage === "undefined" ? first : (localStorage.getItem(name) ?? first),
  );
  const keep = (next: string) => {
    setPrice(next);
    localStorage.setItem(name, next);
  };
  return [price, keep];
}

function Cost({
  live,
  draft,
  drafting,
  perMonth,
}: {
  live: Amounts;
  draft: Amounts;
  drafting: boolean;
  perMonth: (bytes: number) => number;
}) {
  const [perSeries, setPerSeries] = usePrice("tin-ladder price of a series", "0.02");
  const [perGigabyte, setPerGigabyte] = usePrice("tin-ladder price of a GB", "0.10");
  const cost = ({ series, bytes }: Amounts) =>
    series * Number(perSeries) + (perMonth(bytes) / 1e9) * Number(perGigabyte);
  const [before, after] = [cost(live), cost(draft)];
  return (
    <p className="mt-1">
      At <Blank name="price of a series a month" value={perSeries} onChange={setPerSeries} /> a series and{" "}
      <Blank name="price of a gigabyte" value={perGigabyte} onChange={setPerGigabyte} /> a GB:{" "}
      <b className="num">{Number.isFinite(before) ? before.toFixed(2) : "?"}</b> a month as it runs
      {drafting && (
        <>
          , <b className="num">{Number.isFinite(after) ? after.toFixed(2) : "?"}</b> as drafted
        </>
      )}
      .
    </p>
  );
}

/** What becomes of a metric that somebody may look at. */
function lossOf({ before, after, had, has }: MetricEffect): string {
  if (after.points === 0 && before.points > 0) return "nothing arrives any more: its readings will be empty";
  const gone = had.filter((name) => !has.includes(name));
  const came = has.filter((name) => !had.includes(name));
  if (before.points === 0) return "new";
  const fewer = before.series - after.series;
  return [
    fewer > 0 && gone.length === 0 ? `${count(fewer)} fewer series: values that met are told apart no more` : "",
    gone.length > 0
      ? `without ${gone.join(", ")}: readings that need ${gone.length === 1 ? "it" : "them"} will be empty`
      : "",
    came.length > 0 ? `with ${came.join(", ")}` : "",
  ]
    .filter(Boolean)
    .join("; ");
}

function Metrics({ effect }: { effect: Effect }) {
  const changed = effect.draft.metrics
    .map((drafted) => {
      const live = effect.live.metrics.find(({ name }) => name === drafted.name);
      return { ...drafted, before: live?.after ?? { series: 0, points: 0, bytes: 0 }, had: live?.has ?? [] };
    })
    .filter(
      ({ before, after, had, has }) =>
        before.series !== after.series || before.points !== after.points || had.join() !== has.join(),
    )
    .sort((a, b) => Math.abs(b.before.series - b.after.series) - Math.abs(a.before.series - a.after.series));
  if (changed.length === 0) return <p className="text-muted">No metric changes against what runs.</p>;
  return (
    <>
      <Table
        label="Metrics that change"
        heads={[
          "metric",
          { name: "series", right: true },
          { name: "points tried", right: true },
          { name: "what that does", wide: true },
        ]}
      >
        {changed.slice(0, SHOWN).map((one) => (
          <Row key={one.name}>
            <th scope="row" className="num py-1 pr-4 text-left font-semibold whitespace-nowrap">
              {one.name}
            </th>
            <td className="num pr-4 text-right whitespace-nowrap">
              {count(one.before.series)} → {count(one.after.series)}
            </td>
            <td className="num pr-4 text-right whitespace-nowrap">
              {count(one.before.points)} → {count(one.after.points)}
            </td>
            <td>{lossOf(one)}</td>
          </Row>
        ))}
      </Table>
      {changed.length > SHOWN && <p className="text-muted">and {changed.length - SHOWN} more</p>}
    </>
  );
}

function pairs(attributes: Readonly<Record<string, string>>): string {
  return Object.entries(attributes)
    .map(([key, value]) => `${key}=${value}`)
    .join(" ");
}

function isChanged({ metric, attributes, ends }: Trace): boolean {
  return (
    ends.length !== 1 || ends[0].met || ends[0].metric !== metric || pairs(ends[0].attributes) !== pairs(attributes)
  );
}

function shown({ attributes, ends }: Trace): string {
  return JSON.stringify([pairs(attributes), ends.map((end) => [end.metric, pairs(end.attributes), end.met])]);
}

/** Traces of which none looks like another: series may differ in who sends them only. */
function different(traces: readonly Trace[]): Trace[] {
  const all = [...new Map(traces.map((one) => [shown(one), one])).values()];
  const another = ({ attributes, ends }: Trace) => ends.every((end) => pairs(end.attributes) !== pairs(attributes));
  // Those that become something else say most.
  return all.sort((a, b) => Number(another(b)) - Number(another(a)));
}

/** One series, before and after, side by side. */
function Traced({ traces }: { traces: readonly Trace[] }) {
  const [chosen, setChosen] = useState("");
  const metrics = [...new Set(traces.map(({ metric }) => metric))].sort();
  const first = traces.find(isChanged)?.metric ?? metrics[0] ?? "";
  const metric = metrics.includes(chosen) ? chosen : first;
  if (metric === "") return null;
  return (
    <section aria-label="Before and after" className="plate mt-3 px-3 py-2">
      <h2 className="font-bold">
        What becomes of series of{" "}
        <Slot name="metric to follow" options={metrics.map((value) => ({ value }))} onChoose={setChosen}>
          {metric}
        </Slot>
      </h2>
      <Table heads={["comes in as", "is stored as"]}>
        {different(traces.filter((one) => one.metric === metric))
          .slice(0, 6)
          .map((one) => (
            <Row key={shown(one)}>
              <td className="num w-1/2 py-1 pr-4 text-[12px] break-all">{pairs(one.attributes) || "no attributes"}</td>
              <td className="num text-[12px] break-all">
                {one.ends.length === 0 && <span className="text-warning">nothing: dropped</span>}
                {one.ends.map((end) => (
                  <div key={`${end.metric} ${pairs(end.attributes)}`}>
                    {end.metric !== one.metric && <b>{end.metric} </b>}
                    {pairs(end.attributes) || "no attributes"}{" "}
                    {end.met && <span className="font-sans text-primary">meets others</span>}
                  </div>
                ))}
              </td>
            </Row>
          ))}
      </Table>
    </section>
  );
}

/** What a draft does to the arrivals of the last minutes, against what runs. */
export function EffectPanel({
  tried,
  points,
  drafting,
  onAgain,
}: {
  tried: Tried;
  points: number;
  drafting: boolean;
  onAgain: () => void;
}) {
  const { effect, factor, problem } = tried;
  if (problem !== null) return <ProblemNote error={new Error(problem)} />;
  if (!effect) return <div role="status" aria-label="Trying the draft…" className="plate skeleton-bar h-40" />;
  if (points === 0)
    return (
      <section className="plate p-4">
        <h2 className="font-bold">Nothing has arrived in the last minutes</h2>
        <p className="text-muted">
          A draft is tried on what arrives; as soon as something does, it shows here what it would do.
        </p>
      </section>
    );
  const { span, live, draft, took } = effect;
  const perMinute = (amount: number) => (span > 0 ? (amount * factor * MINUTE) / span : 0);
  const perMonth = (bytes: number) => (span > 0 ? (bytes * factor * MONTH) / span : 0);
  const from = drafting ? live.stored : live.arrivals;
  const to = draft.stored;
  return (
    <>
      <section aria-label="What it does" className="plate px-3 py-2">
        <h2 className="text-[17px] font-bold">
          <span className="num">{from.series.toLocaleString("en")}</span> series{" "}
          {from.series === to.series ? (
            drafting ? (
              "stay as they are"
            ) : (
              "come in, and as many are stored"
            )
          ) : (
            <>
              become <span className="num">{to.series.toLocaleString("en")}</span>
              <span className="num text-primary"> {change(from.series, to.series)}</span>
            </>
          )}
        </h2>
        <p>
          <span className="num">{count(Math.round(perMinute(from.points)))}</span> points a minute
          {from.points !== to.points && (
            <>
              {" "}
              become <span className="num">{count(Math.round(perMinute(to.points)))}</span>{" "}
              <span className="num text-primary">{change(from.points, to.points)}</span>
            </>
          )}
          , about <span className="num">{size(perMinute(from.bytes))}</span> a minute
          {from.bytes !== to.bytes && (
            <>
              {" "}
              become <span className="num">{size(perMinute(to.bytes))}</span>{" "}
              <span className="num text-primary">{change(from.bytes, to.bytes)}</span>
            </>
          )}
          .
        </p>
        <Cost live={live.stored} draft={to} drafting={drafting} perMonth={perMonth} />
        <p className="text-[12.5px] text-muted">
          tried on {count(points)} points of {duration(span)}, in {Math.round(took)} ms
          {factor > 1.01 && `, one of ${factor.toFixed(1)} that came`}.{" "}
          <button type="button" className="slot" onClick={onAgain}>
            take newer arrivals
          </button>
        </p>
      </section>
      {drafting && (
        <section aria-label="Metrics that change" className="plate mt-3 px-3 py-2">
          <h2 className="font-bold">What becomes of metrics</h2>
          <Metrics effect={effect} />
        </section>
      )}
      {drafting && <ReadingsPanel readings={effect.readings} />}
      <Traced traces={draft.traces} />
    </>
  );
}
