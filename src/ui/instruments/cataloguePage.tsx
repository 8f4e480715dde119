"use client";

import { useVirtualizer } from "@tanstack/react-virtual";
import { parseAsString, useQueryState } from "nuqs";
import { useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import type { CatalogueEntry } from "@/core/api/instruments";
import { unitInWords } from "@/core/unit/words";
import { MINUTE } from "@/core/window/lengths";
import { Spark } from "../chart/spark";
import { count } from "../frame/amounts";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { ProblemNote } from "../frame/problemNote";
import { SearchField } from "../frame/searchField";
import { useFindings, useInstruments, useMetricsWithValue } from "../query/instruments";
import { useSpan } from "../query/place";
import { useReading } from "../query/use";
import { overallReading } from "../sentence/usual";
import { ContractFiles } from "./contractFiles";
import { FindingList } from "./findingList";
import { kindWord } from "./kindWords";
import { type Line, linesOf, search, searchable } from "./search";

const HEAD_HEIGHT = 28;
const ROW_HEIGHT = 36;
/** Characters at the end of a name that are always seen. */
const END = 10;
const COLUMNS = "grid-cols-[minmax(15rem,1fr)_9.5rem_8rem_9rem_4.5rem_5rem_7rem]";

/** The spark of one metric over the window. */
function RowSpark({ entry }: { entry: CatalogueEntry }) {
  const span = useSpan();
  const wide = span && { from: Math.floor(span.from / MINUTE) * MINUTE, to: Math.floor(span.to / MINUTE) * MINUTE };
  const { data } = useReading(overallReading(entry), wide);
  const values = data?.series[0]?.values ?? [];
  const top = values.reduce<number>((most, value) => Math.max(most, value ?? 0), 0);
  if (values.length === 0) return null;
  return <Spark values={values} top={top} colour="var(--color-primary)" />;
}

/** How long a row has to stay before its spark is asked for, ms: rows that typing or scrolling passes ask nothing. */
const SETTLED = 250;

function useSettled(): boolean {
  const [settled, setSettled] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(true), SETTLED);
    return () => clearTimeout(timer);
  }, []);
  return settled;
}

function Row({ entry, found }: { entry: CatalogueEntry; found: string | undefined }) {
  const carried = useCarried();
  const settled = useSettled();
  const reports = entry.kind !== "" && entry.seriesNow > 0;
  const address = `/instruments/one${carried ? `${carried}&` : "?"}metric=${encodeURIComponent(entry.name)}`;
  return (
    <div className={`grid h-9 ${COLUMNS} items-center gap-x-3 border-b border-base-300/50`}>
      <div className="min-w-0 leading-tight">
        <Link
          href={address}
          className="num flex font-semibold hover:text-primary"
          title={[entry.name, entry.description].filter(Boolean).join("\n")}
          aria-label={entry.name}
        >
          {/* Of a long name the middle is cut: names that stand together differ at their ends. */}
          <span className="truncate whitespace-pre">{entry.name.slice(0, -END)}</span>
          <span className="whitespace-pre">{entry.name.slice(-END)}</span>
        </Link>
        {found ? (
          <span className="num block truncate text-[11.5px] text-primary">{found}</span>
        ) : (
          (entry.contract !== null || entry.findings > 0 || entry.variants > 0) && (
            <span className="block truncate text-[11.5px]">
              {entry.contract !== null && <span className="text-muted">contract {entry.contract} </span>}
              {entry.findings > 0 && (
                <span className="text-error">
                  ✕ {entry.findings} {entry.findings === 1 ? "finding" : "findings"}{" "}
                </span>
              )}
              {entry.variants > 0 && <span className="text-warning">◆ also as another kind or unit</span>}
            </span>
          )
        )}
      </div>
      <span className="truncate">{kindWord(entry)}</span>
      <span className="truncate text-muted">{unitInWords(entry.unit)}</span>
      <span className="truncate" title={entry.services.join(", ")}>
        {entry.services.join(", ") || "—"}
      </span>
      <span className="num text-right">{entry.releases}</span>
      <span className="num text-right" title={`${entry.series} ever`}>
        {count(entry.seriesNow)}
      </span>
      <span className="inline-block w-[104px]">{settled && reports && <RowSpark entry={entry} />}</span>
    </div>
  );
}

function List({ lines, found }: { lines: readonly Line[]; found: ReadonlyMap<string, string> }) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: (i) => (lines[i].type === "head" ? HEAD_HEIGHT : ROW_HEIGHT),
    getItemKey: (i) => {
      const line = lines[i];
      return line.type === "head" ? `head ${line.prefix}` : line.entry.name;
    },
    // The server draws the first rows without knowing how many there is room for.
    initialRect: { width: 1000, height: 700 },
    overscan: 8,
  });
  return (
    <section ref={scroller} aria-label="Instruments" className="plate min-h-0 flex-1 overflow-y-auto px-3 text-[13px]">
      <div
        className={`sticky top-0 z-10 grid ${COLUMNS} gap-x-3 border-b border-base-300 bg-base-100 py-1.5 font-bold`}
      >
        <span>name</span>
        <span>kind</span>
        <span>unit</span>
        <span>services</span>
        <span className="text-right">releases</span>
        <span className="text-right">series now</span>
        <span>in this window</span>
      </div>
      <div className="relative" style={{ height: rows.getTotalSize() }}>
        {rows.getVirtualItems().map((item) => {
          const line = lines[item.index];
          return (
            <div
              key={item.key}
              className="absolute inset-x-0 top-0"
              style={{ height: item.size, transform: `translateY(${item.start}px)` }}
            >
              {line.type === "head" ? (
                <h2 className="pt-1.5 font-bold text-muted">
                  <span className="num">{line.prefix}</span> <span className="font-normal">{line.count}</span>
                </h2>
              ) : (
                <Row entry={line.entry} found={found.get(line.entry.name)} />
              )}
            </div>
          );
        })}
      </div>
    </section>
  );
}

/** Every metric that ever arrived or was defined, found by typing. */
export function CataloguePage() {
  const carried = useCarried();
  const { data, error } = useInstruments();
  const findings = useFindings();
  const [text, setText] = useQueryState("find", parseAsString.withDefault("").withOptions({ throttleMs: 300 }));
  const wanted = useDeferredValue(text);
  const values = useMetricsWithValue(wanted.trim());
  const all = useMemo(() => searchable(data?.entries ?? []), [data]);
  const byValue = useMemo(
    () => new Map(wanted.trim().length >= 2 ? (values.data ?? []).map(({ name, found }) => [name, found]) : []),
    [values.data, wanted],
  );
  const { entries, near } = useMemo(() => search(all, wanted, new Set(byValue.keys())), [all, wanted, byValue]);
  const lines = useMemo(() => linesOf(entries), [entries]);
  // Only what holds by nothing but its value is worth telling why.
  const told = useMemo(() => {
    const byWords = new Set(search(all, wanted, new Set()).entries.map(({ name }) => name));
    return new Map([...byValue].filter(([name]) => !byWords.has(name)));
  }, [byValue, all, wanted]);
  const holding = (findings.data ?? []).filter(({ endedAt }) => endedAt === null);
  return (
    <div className="flex h-full min-h-0 flex-col">
      <header className="mb-3 flex flex-wrap items-baseline gap-x-3 gap-y-2">
        <h1 className="text-[24px] font-bold leading-none">Instruments</h1>
        <SearchField
          label="Find instruments"
          placeholder="Any part of a name, attribute or value"
          text={text}
          onText={(next) => void setText(next)}
          className="w-80"
        />
        {data && (
          <p className="text-muted" role="status">
            {wanted.trim() === "" ? `${count(data.all)} in all` : `${count(entries.length)} of ${count(data.all)}`}
            {data.entries.length < data.all && `; ${count(data.entries.length)} have come so far`}
          </p>
        )}
        <div className="ml-auto flex items-baseline gap-4">
          <ContractFiles />
          <Link className="btn btn-sm btn-primary" href={`/instruments/define${carried}`}>
            Define an instrument
          </Link>
        </div>
      </header>
      {error && !data && <ProblemNote error={error} />}
      {!data && !error && (
        <div role="status" aria-label="Reading…" className="plate flex-1 space-y-3 p-4">
          {[0, 1, 2, 3, 4].map((row) => (
            <div key={row} className="skeleton-bar h-5" style={{ width: `${90 - row * 9}%` }} />
          ))}
        </div>
      )}
      {holding.length > 0 && wanted.trim() === "" && <FindingList findings={holding} withMetric />}
      {data && entries.length === 0 && data.entries.length >= data.all && (
        <div className="plate p-4">
          <h2 className="font-bold">Nothing of that name, attribute or value</h2>
          {near !== null && (
            <p className="mt-1">
              Did you mean{" "}
              <button type="button" className="slot num" onClick={() => void setText(near)}>
                {near}
              </button>
              ?
            </p>
          )}
        </div>
      )}
      {data && entries.length > 0 && <List lines={lines} found={told} />}
    </div>
  );
}
