"use client";

import dynamic from "next/dynamic";
import { parseAsString, parseAsStringLiteral, useQueryState } from "nuqs";
import type { InstrumentAnswer } from "@/core/api/instruments";
import { unitInWords } from "@/core/unit/words";
import { MINUTE } from "@/core/window/lengths";
import { ReadingPlate } from "../chart/plate";
import { HoverScope } from "../chart/pointing/hover";
import { count } from "../frame/amounts";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { ProblemNote } from "../frame/problemNote";
import { useInstrument, useLatest } from "../query/instruments";
import { useNowBy } from "../query/place";
import { useTimes } from "../query/times";
import { usualReading } from "../sentence/usual";
import { Attributes } from "./attributes";
import { FindingList } from "./findingList";
import { kindWord } from "./kindWords";
import { LatestPoints } from "./latestPoints";
import { Exemplars, SeriesByDay, SeriesByRelease } from "./seriesTables";

/** Knows every step of the pipeline. */
const UsedBy = dynamic(() => import("./usedBy").then((module) => module.UsedBy));
const AdvicePlate = dynamic(() => import("./advicePlate").then((module) => module.AdvicePlate));

const VIEWS = ["attributes", "points", "text", "exemplars", "buckets"] as const;
type View = (typeof VIEWS)[number];
const WORDS: Record<View, string> = {
  attributes: "Attributes and series",
  points: "Last points",
  text: "As text",
  exemplars: "Exemplars",
  buckets: "Better buckets",
};

function isHistogram({ kind }: InstrumentAnswer["variants"][number]): boolean {
  return kind === "histogram" || kind === "exponential";
}

const HEARD = 10 * MINUTE;
const GRAIN = 30_000;

/** How many series of the instances that report really came lately: fewer where some were merged away, or ended. */
function Heard({ data: { name, seriesNow } }: { data: InstrumentAnswer }) {
  const now = useNowBy(GRAIN);
  const { data } = useLatest(name, now > 0 && seriesNow > 0 ? { from: now - HEARD, to: now + GRAIN } : null);
  if (!data || data.heard >= seriesNow) return null;
  return (
    <>
      {" "}
      (<span className="num">{count(data.heard)}</span> of them with points in the last ten minutes)
    </>
  );
}

function About({ data }: { data: InstrumentAnswer }) {
  const { dayWithYear } = useTimes();
  const [first, ...others] = data.variants;
  return (
    <>
      {first?.description && <p>{first.description}</p>}
      <p className="text-muted">
        {first ? (
          <>
            {kindWord({ ...first, contract: null })} in {unitInWords(first.unit)}
            {first.unit && <span className="num"> ({first.unit})</span>}
            {first.temporality !== "none" && `, ${first.temporality}`}, first seen {dayWithYear(first.firstAt)};{" "}
            <b className="num text-base-content">{count(data.seriesNow)}</b> series now
            <Heard data={data} />, <span className="num">{count(data.series)}</span> ever
          </>
        ) : (
          "Defined, and not seen yet"
        )}
      </p>
      {others.length > 0 && (
        <p className="text-warning">
          ◆ Also as{" "}
          {others
            .map((one) => `${kindWord({ ...one, contract: null })} in ${one.unit || "no unit"} (${one.temporality})`)
            .join(", ")}
        </p>
      )}
    </>
  );
}

/** One instrument: its chart, what it is made of, what that costs, and whether it is as agreed. */
export function InstrumentPage() {
  const [name] = useQueryState("metric", parseAsString.withDefault(""));
  const [view, setView] = useQueryState("view", parseAsStringLiteral(VIEWS).withDefault("attributes"));
  const carried = useCarried();
  const { data, error } = useInstrument(name);
  if (name === "")
    return (
      <div className="plate p-4">
        <h1 className="text-[20px] font-bold">No instrument is named</h1>
        <p>
          The address of this page says which one, and this one does not.{" "}
          <Link className="slot" href={`/instruments${carried}`}>
            Choose among all instruments
          </Link>
        </p>
      </div>
    );
  if (error && !data) return <ProblemNote error={error} />;
  if (!data)
    return (
      <div role="status" aria-label="Reading…" className="space-y-3">
        <div className="skeleton-bar h-6 w-64" />
        <div className="plate h-56 p-4" />
        <div className="plate h-40 p-4" />
      </div>
    );
  const [first] = data.variants;
  const views = VIEWS.filter((one) => one !== "buckets" || data.variants.some(isHistogram));
  const define = `/instruments/define${carried ? `${carried}&` : "?"}metric=${encodeURIComponent(name)}`;
  return (
    <HoverScope>
      <header className="mb-3 flex flex-wrap items-baseline gap-x-3">
        <h1 className="num text-[20px] leading-none font-bold break-all">{name}</h1>
        <p className="ml-auto flex gap-x-4">
          <Link className="slot" href={`/instruments${carried}`}>
            all instruments
          </Link>
          <Link className="slot" href={define}>
            {data.contract ? `contract ${data.contract.version}` : "make a contract of it"}
          </Link>
        </p>
        <div className="w-full">
          <About data={data} />
          <UsedBy data={data} define={define} />
        </div>
      </header>
      {data.findings.length > 0 && <FindingList findings={data.findings} />}
      {first && (
        <div className="mb-3">
          <ReadingPlate title="Now" text={usualReading({ ...first, name })} height={170} />
        </div>
      )}
      <div role="tablist" aria-label="What to see of it" className="mb-2 flex flex-wrap gap-x-4">
        {views.map((one) => (
          <button
            key={one}
            type="button"
            role="tab"
            aria-selected={view === one}
            tabIndex={view === one ? 0 : -1}
            onKeyDown={(event) => {
              const by = event.key === "ArrowRight" ? 1 : event.key === "ArrowLeft" ? -1 : 0;
              if (by === 0) return;
              const next = (views.indexOf(one) + by + views.length) % views.length;
              void setView(views[next]);
              (event.currentTarget.parentElement!.children[next] as HTMLElement).focus();
            }}
            onClick={() => void setView(one)}
            className={`pb-0.5 text-[15px] font-bold ${view === one ? "border-b-[3px] border-primary text-primary" : "text-muted hover:text-base-content"}`}
          >
            {WORDS[one]}
          </button>
        ))}
      </div>
      {view === "attributes" && (
        <>
          <Attributes data={data} />
          <div className="mt-3 grid grid-cols-1 gap-3 lg:grid-cols-2">
            <SeriesByRelease data={data} />
            <SeriesByDay data={data} />
          </div>
        </>
      )}
      {view === "exemplars" && <Exemplars data={data} />}
      {(view === "points" || view === "text") && <LatestPoints name={name} asText={view === "text"} />}
      {view === "buckets" && <AdvicePlate name={name} />}
    </HoverScope>
  );
}
