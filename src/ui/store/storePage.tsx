"use client";

import dynamic from "next/dynamic";
import { useDeferredValue, useState } from "react";
import { COSTLIEST } from "@/core/api/costliest";
import type { JobEntry, ResolutionEntry, StoreAnswer, StoredMetric } from "@/core/api/store";
import { formatValue } from "@/core/unit/format";
import { count, days, size } from "../frame/amounts";
import { ProblemNote } from "../frame/problemNote";
import { type Head, Row, Table } from "../frame/table";
import { ago, duration } from "../frame/times";
import { useMay } from "../query/me";
import { useNow } from "../query/place";
import { useTimes } from "../query/times";
import { useStore } from "../query/use";
import { Blank } from "../sentence/blank";
import { PurgeRecord } from "./purgeRecord";
import { SetAside } from "./setAside";

const KeepDialog = dynamic(() => import("./keepDialog").then((module) => module.KeepDialog));
const PurgeDialog = dynamic(() => import("./purgeDialog").then((module) => module.PurgeDialog));

const RESOLUTION_WORDS: Record<ResolutionEntry["resolution"], string> = {
  raw: "as they arrived",
  minutes: "by the minute",
  hours: "by the hour",
};

/** A first column of names and numbers beside it. */
function headsOf(first: string, ...numbers: string[]): Head[] {
  return [first, ...numbers.map((name) => ({ name, right: true }))];
}

function Resolutions({ all }: { all: readonly ResolutionEntry[] }) {
  const { dayWithYear } = useTimes();
  return (
    <section className="plate px-3 pt-2 pb-2">
      <h2 className="font-bold">Points by resolution</h2>
      <Table heads={headsOf("points", "kept", "number", "strips", "size", "a point", "on disk", "oldest")}>
        {all.map((one) => (
          <Row key={one.resolution}>
            <th scope="row" className="py-1 pr-4 text-left font-semibold">
              {RESOLUTION_WORDS[one.resolution]}
            </th>
            <td className="num pr-4 text-right">{days(one.keep)}</td>
            <td className="num pr-4 text-right font-semibold">{count(one.points)}</td>
            <td className="num pr-4 text-right">{count(one.strips)}</td>
            <td className="num pr-4 text-right">{size(one.bytes)}</td>
            <td className="num pr-4 text-right">{one.points > 0 ? `${(one.bytes / one.points).toFixed(1)} B` : "—"}</td>
            <td className="num pr-4 text-right">{size(one.disk)}</td>
            <td className="num text-right">{one.oldest === null ? "—" : dayWithYear(one.oldest)}</td>
          </Row>
        ))}
      </Table>
    </section>
  );
}

function JobState({ job, now }: { job: JobEntry; now: number }) {
  if (job.error) return <span className="text-error">✕ failed: {job.error}</span>;
  if (job.finishedAt === null) return <span className="text-primary">at work for {duration(now - job.startedAt)}</span>;
  return (
    <>
      {ago(job.finishedAt, now)}, took {formatValue(job.finishedAt - job.startedAt, "ms")}
    </>
  );
}

function Jobs({ jobs }: { jobs: readonly JobEntry[] }) {
  const now = useNow();
  return (
    <section className="plate px-3 pt-2 pb-2">
      <h2 className="font-bold">Upkeep</h2>
      {jobs.length === 0 ? (
        <p className="py-2 text-muted">No intake has done any upkeep yet; one that runs begins within seconds.</p>
      ) : (
        <Table heads={headsOf("job", "last", "done", "waiting", "oldest waits")}>
          {jobs.map((job) => (
            <Row key={job.name}>
              <th scope="row" className="py-1 pr-4 text-left font-semibold" title={`held by ${job.holder}`}>
                {job.does}
              </th>
              <td className="pr-4 text-right">
                <JobState job={job} now={now} />
              </td>
              <td className="num pr-4 text-right">{count(job.done)}</td>
              <td className="num pr-4 text-right">{job.backlog === 0 ? "nothing" : count(job.backlog)}</td>
              <td className="num text-right">
                {job.waitingSince === null ? "—" : duration(Math.max(0, now - job.waitingSince))}
              </td>
            </Row>
          ))}
        </Table>
      )}
    </section>
  );
}

function keepWords({ keep }: StoredMetric): string {
  const own = [keep.raw, keep.minutes, keep.hours];
  if (own.every((ms) => ms === null)) return "as usual";
  return own.map((ms) => (ms === null ? "usual" : days(ms).replace(/ days?$/, " d"))).join(" · ");
}

/** The metrics that cost most, of those with a text in their names. */
function Metrics({
  store: { metrics, found, all },
  wanted,
  onWanted,
  onMore,
  onKeep,
  onPurge,
}: {
  store: StoreAnswer;
  wanted: string;
  onWanted: (text: string) => void;
  onMore: () => void;
  onKeep: (metric: StoredMetric) => void;
  onPurge: (metric: StoredMetric) => void;
}) {
  const mayOwn = useMay("own");
  const most = Math.max(1, metrics[0]?.bytes ?? 1);
  return (
    <section className="plate px-3 pt-2 pb-2">
      <header className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 className="font-bold">What costs most</h2>
        {all > COSTLIEST && (
          <p className="text-[12.5px] text-muted">
            of those with{" "}
            <Blank name="part of a metric's name" value={wanted} placeholder="any name" onChange={onWanted} />
          </p>
        )}
      </header>
      <Table
        heads={[
          "metric",
          "size",
          ...["series", "raw", "minutes", "hours"].map((name) => ({ name, right: true })),
          "kept",
          { name: "delete", hidden: true },
        ]}
      >
        {metrics.map((metric) => (
          <Row key={metric.name}>
            <th scope="row" className="num py-1 pr-4 text-left font-semibold">
              {metric.name}
            </th>
            <td className="pr-4">
              <span className="num block text-[12px]">{size(metric.bytes)}</span>
              <span
                aria-hidden
                className="block h-[5px] bg-secondary"
                style={{ width: `${Math.max(1, (100 * metric.bytes) / most)}%` }}
              />
            </td>
            <td className="num pr-4 text-right">
              {count(metric.series)}
              {metric.overflows && <span className="block font-sans text-[12px] text-warning">◆ past the limit</span>}
            </td>
            <td className="num pr-4 text-right">{count(metric.points.raw)}</td>
            <td className="num pr-4 text-right">{count(metric.points.minutes)}</td>
            <td className="num pr-4 text-right">{count(metric.points.hours)}</td>
            <td className="pr-4 whitespace-nowrap">
              {mayOwn ? (
                <button
                  type="button"
                  className="slot"
                  aria-label={`change how long ${metric.name} is kept: ${keepWords(metric)}`}
                  onClick={() => onKeep(metric)}
                >
                  {keepWords(metric)}
                </button>
              ) : (
                keepWords(metric)
              )}
            </td>
            <td className="text-right whitespace-nowrap">
              {mayOwn && (
                <button
                  type="button"
                  className="slot"
                  aria-label={`delete points of ${metric.name}`}
                  onClick={() => onPurge(metric)}
                >
                  delete…
                </button>
              )}
            </td>
          </Row>
        ))}
      </Table>
      {found > metrics.length && (
        <p className="py-1 text-[13px] text-muted">
          {count(found - metrics.length)} more cost less:{" "}
          <button type="button" className="slot" onClick={onMore}>
            show {Math.min(COSTLIEST, found - metrics.length)} of them
          </button>
        </p>
      )}
    </section>
  );
}

/** What is stored, what it costs, how upkeep is doing; and where data is deleted on purpose. */
export function StorePage() {
  const [wanted, setWanted] = useState("");
  const [rows, setRows] = useState(COSTLIEST);
  const { data, error } = useStore(useDeferredValue(wanted).trim(), rows);
  const [keeping, setKeeping] = useState<StoredMetric | null>(null);
  const [purging, setPurging] = useState<StoredMetric | null>(null);
  if (error && !data) return <ProblemNote error={error} />;
  if (!data)
    return (
      <div className="space-y-3" aria-busy="true">
        <div className="skeleton-bar h-6 w-24" />
        <div className="plate h-32 p-3">
          <div className="skeleton-bar h-4 w-2/3" />
        </div>
        <div className="plate h-64 p-3">
          <div className="skeleton-bar h-4 w-1/2" />
        </div>
      </div>
    );
  const disk = data.resolutions.reduce((sum, one) => sum + one.disk, 0);
  const points = data.resolutions.reduce((sum, one) => sum + one.points, 0);
  return (
    <div className="space-y-3">
      <header>
        <h1 className="mb-1 text-[24px] leading-none font-bold">Store</h1>
        <p className="text-muted">
          <span className="num">{count(data.series)}</span> series of <span className="num">{count(data.all)}</span>{" "}
          metrics, <span className="num">{count(points)}</span> rows of points,{" "}
          <span className="num">{size(disk)}</span> on disk
        </p>
      </header>
      {error && <ProblemNote error={error} />}
      <Resolutions all={data.resolutions} />
      <Jobs jobs={data.jobs} />
      <SetAside all={data.setAside} />
      <Metrics
        store={data}
        wanted={wanted}
        onWanted={setWanted}
        onMore={() => setRows(rows + COSTLIEST)}
        onKeep={setKeeping}
        onPurge={setPurging}
      />
      <PurgeRecord purges={data.purges} />
      {keeping && <KeepDialog metric={keeping} usual={data.resolutions} onClose={() => setKeeping(null)} />}
      {purging && <PurgeDialog metric={purging} onClose={() => setPurging(null)} />}
    </div>
  );
}
