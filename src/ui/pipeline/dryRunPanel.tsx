"use client";

import type { FollowAsked } from "@/core/draft/followed";
import { count, size } from "../frame/amounts";
import { ProblemNote } from "../frame/problemNote";
import { duration } from "../frame/times";
import { CostLine } from "./costLine";
import { FollowPanel } from "./followPanel";
import { MetricsPanel } from "./metricsPanel";
import { ReadingsPanel } from "./readingsPanel";
import { monthly, perMinute, type Tried } from "./useDryRun";
import type { OwnReadings } from "./useOwnReadings";

function change(before: number, after: number): string {
  if (before === 0 || before === after) return "";
  const part = (100 * (after - before)) / before;
  return `${part > 0 ? "+" : "−"}${Math.abs(part).toFixed(1)} %`;
}

/** What a draft does to the arrivals of the last minutes, against what runs. */
export function DryRunPanel({
  tried,
  points,
  drafting,
  broken,
  follow,
  onFollow,
  own,
  others,
  onAgain,
}: {
  tried: Tried;
  points: number;
  drafting: boolean;
  /** Whether the draft cannot be tried before something in it is mended: then what runs is told. */
  broken: boolean;
  follow: FollowAsked;
  onFollow: (asked: FollowAsked) => void;
  own: OwnReadings;
  /** Sheets that were not tried, because the reader may not see them. */
  others: number;
  onAgain: () => void;
}) {
  const { dryRun, factor, span, problem } = tried;
  if (problem !== null) return <ProblemNote error={new Error(problem)} />;
  if (!dryRun) return <div role="status" aria-label="Trying the draft…" className="plate skeleton-bar h-40" />;
  if (points === 0)
    return (
      <section className="plate p-4">
        <h2 className="font-bold">Nothing has arrived in the last minutes</h2>
        <p className="text-muted">
          A draft is tried on what arrives; as soon as something does, it shows here what it would do.
        </p>
      </section>
    );
  const { live, draft, took } = dryRun;
  const minute = (amount: number) => perMinute(tried, amount);
  const from = drafting ? live.stored : live.arrivals;
  const to = draft.stored;
  return (
    <>
      <section aria-label="What it does" className="plate px-3 py-2">
        {drafting && broken && (
          <p className="text-warning">
            ◆ Something in the draft has to be mended before it can be tried (✕ above); this is what runs.
          </p>
        )}
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
          <span className="num">{count(Math.round(minute(from.points)))}</span> points a minute
          {from.points !== to.points && (
            <>
              {" "}
              become <span className="num">{count(Math.round(minute(to.points)))}</span>{" "}
              <span className="num text-primary">{change(from.points, to.points)}</span>
            </>
          )}
          , about <span className="num">{size(minute(from.bytes))}</span> a minute
          {from.bytes !== to.bytes && (
            <>
              {" "}
              become <span className="num">{size(minute(to.bytes))}</span>{" "}
              <span className="num text-primary">{change(from.bytes, to.bytes)}</span>
            </>
          )}
          .
        </p>
        <CostLine live={monthly(tried, live.stored)} draft={monthly(tried, to)} drafting={drafting} />
        <p className="text-[12.5px] text-muted">
          tried on {count(points)} points of {duration(span)}, in {Math.round(took)} ms
          {factor > 1.01 && `, one of ${factor.toFixed(1)} that came`}.{" "}
          <button type="button" className="slot" onClick={onAgain}>
            take newer arrivals
          </button>
        </p>
      </section>
      {drafting && <MetricsPanel dryRun={dryRun} />}
      {drafting && (
        <ReadingsPanel
          readings={dryRun.readings}
          contracts={dryRun.contracts}
          plates={dryRun.plates}
          others={others}
          own={own}
        />
      )}
      <FollowPanel answer={dryRun.followed} asked={follow} onAsk={onFollow} />
    </>
  );
}
