"use client";

import { useMemo, useState } from "react";
import type { Finding } from "@/core/contract/finding";
import type { BrokenPlate } from "@/core/draft/brokenPlates";
import type { ContractDryRun, ReadingDryRun } from "@/core/draft/watchedReading";
import type { SideBySide } from "@/core/reading/differences";
import { parseReading } from "@/core/reading/language/parse";
import { ReadingError } from "@/core/reading/language/tree";
import type { ReadingResult } from "@/core/reading/result";
import { formatValue } from "@/core/unit/format";
import { Lines } from "../chart/lines";
import type { Times } from "../frame/times";
import { useTimes } from "../query/times";
import { BrokenPlates } from "./brokenPlates";
import type { OwnReadings } from "./useOwnReadings";

/** What people look at, answered on what is stored as it runs and as it is drafted. */

const MAX_CHARTS = 6;

/** Both answers as one, so that they are drawn on one scale. */
export function together(left: ReadingResult, right: ReadingResult, names: readonly [string, string]): ReadingResult {
  const named = (result: ReadingResult, name: string) =>
    result.series.map((series) => ({ ...series, labels: { side: name, ...series.labels } }));
  return { ...left, series: [...named(left, names[0]), ...named(right, names[1])] };
}

function isSame({ pairs, gone }: ReadingDryRun): boolean {
  return (
    gone.length === 0 &&
    pairs.every(({ left, right, furthest }) => left !== null && right !== null && furthest === null)
  );
}

/** How far two answers are apart, in words, with times by the viewer's clock. */
export function apartText(
  pairs: readonly SideBySide[],
  unit: string,
  names: readonly [string, string],
  { clock }: Times,
): string {
  if (pairs.length === 0) return "there is nothing on either side";
  const missing = pairs.filter(({ right }) => right === null).length;
  const came = pairs.filter(({ left }) => left === null).length;
  if (missing === pairs.length) return `${names[1]} it is empty`;
  if (came === pairs.length) return `${names[0]} it is empty`;
  const parts = [
    missing > 0 ? `${missing} series only ${names[0]}` : "",
    came > 0 ? `${came} series only ${names[1]}` : "",
  ];
  const both = (before: number, after: number) => {
    const change = before === 0 ? 0 : ((after - before) / Math.abs(before)) * 100;
    const part = Math.abs(change) < 0.05 ? "" : ` (${change > 0 ? "+" : "−"}${Math.abs(change).toFixed(1)} %)`;
    return `${formatValue(before, unit)} and ${formatValue(after, unit)}${part}`;
  };
  const apart = pairs.find(({ furthest }) => furthest !== null);
  if (apart?.furthest) {
    const { at, left, right } = apart.furthest;
    parts.push(`furthest apart at ${clock(at, true)}: ${both(left, right)}`);
    const [before, after] = [apart.left?.total ?? null, apart.right?.total ?? null];
    if (before !== null && after !== null) parts.push(`in all ${both(before, after)}`);
  }
  return parts.filter(Boolean).join("; ") || "the same to the last digit";
}

const NAMES = ["as it runs", "as drafted"] as const;

/** What becomes of a reading, in words. */
function Verdict({ draft, live, pairs, gone }: ReadingDryRun) {
  const times = useTimes();
  if (!draft || !live) return null;
  if (draft.series.length === 0 && live.series.length > 0) return <span className="text-warning">◆ will be empty</span>;
  const missing = gone.length > 0 && `◆ ${gone.join(" and ")} ${gone.length === 1 ? "is" : "are"} gone; `;
  return (
    <>
      {missing && <span className="text-warning">{missing}</span>}
      <span className="text-muted">{apartText(pairs, live.unit, NAMES, times)}</span>
    </>
  );
}

function Figure({ of, onRemove }: { of: ReadingDryRun; onRemove: (() => void) | null }) {
  const { text, at, live, draft } = of;
  const both = useMemo(() => live && draft && together(live, draft, NAMES), [live, draft]);
  if (!both) return null;
  return (
    <figure aria-label={text}>
      <figcaption className="text-[13px]">
        <span className="num font-semibold">{text}</span> <span className="text-muted">{at}</span>{" "}
        {onRemove && <Leave text={text} onRemove={onRemove} />}
        <br />
        <Verdict {...of} />
      </figcaption>
      <Lines result={both} height={150} />
    </figure>
  );
}

function Leave({ text, onRemove }: { text: string; onRemove: () => void }) {
  return (
    <button type="button" className="slot" aria-label={`try ${text} no more`} onClick={onRemove}>
      leave it
    </button>
  );
}

/** Takes a reading of one's own to be tried. */
function AddReading({ own }: { own: OwnReadings }) {
  const [text, setText] = useState("");
  const [problem, setProblem] = useState("");
  const add = () => {
    try {
      parseReading(text);
      own.add(text.trim());
      setText("");
      setProblem("");
    } catch (error) {
      if (!(error instanceof ReadingError)) throw error;
      setProblem([error.message, error.hint].filter(Boolean).join("; "));
    }
  };
  return (
    <form
      className="mt-1 flex flex-wrap items-baseline gap-x-2"
      onSubmit={(event) => {
        event.preventDefault();
        add();
      }}
    >
      <label className="flex min-w-0 flex-1 items-baseline gap-2">
        also try
        <input
          className="input input-sm num min-w-0 flex-1"
          aria-label="reading to try"
          placeholder="p95 of http.server.request.duration by http.route"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      </label>
      <button type="submit" className="btn btn-sm" disabled={text.trim() === ""}>
        Try it
      </button>
      {problem !== "" && (
        <p role="alert" className="w-full text-error">
          ✕ {problem}
        </p>
      )}
    </form>
  );
}

/** What a draft breaks of contracts, and what it mends. */
function Contracts({ contracts }: { contracts: readonly ContractDryRun[] }) {
  const told = (name: string, findings: readonly Finding[], breaks: boolean) =>
    findings.map(({ code, subject, detail }) => (
      <li key={`${name} ${code} ${subject}`} className={breaks ? "text-error" : "text-success"}>
        {breaks ? "✕" : "✓"} <span className="num font-semibold">{name}</span>{" "}
        {breaks ? "breaks its contract" : "no longer breaks its contract"}: {detail}
      </li>
    ));
  if (contracts.length === 0) return null;
  return (
    <ul aria-label="Contracts" className="text-[13px]">
      {contracts.flatMap(({ name, breaks, mends }) => [...told(name, breaks, true), ...told(name, mends, false)])}
    </ul>
  );
}

export function ReadingsPanel({
  readings,
  contracts,
  plates,
  others,
  own,
}: {
  readings: readonly ReadingDryRun[];
  contracts: readonly ContractDryRun[];
  /** Plates of sheets that break, and how many sheets were not tried. */
  plates: readonly BrokenPlate[];
  others: number;
  own: OwnReadings;
}) {
  const known = readings.filter(({ live, draft }) => (live?.series.length ?? 0) + (draft?.series.length ?? 0) > 0);
  const changed = known.filter((one) => !isSame(one));
  const same = known.filter(isSame);
  const removal = (text: string) => (own.texts.includes(text) ? () => own.remove(text) : null);
  // What somebody asked for here is told about even where there is nothing to see.
  const silent = readings.filter(
    ({ text, problem }) => problem !== null || (own.texts.includes(text) && !known.some((one) => one.text === text)),
  );
  return (
    <section aria-label="What people look at" className="plate mt-3 px-3 py-2">
      <h2 className="font-bold">What people look at</h2>
      <Contracts contracts={contracts} />
      <BrokenPlates plates={plates} others={others} />
      {changed.length === 0 && (
        <p className="text-muted">
          {same.length === 0
            ? "None of the instruments with a contract came in these minutes."
            : `${same.length} ${same.length === 1 ? "reading stays the same" : "readings stay the same"}.`}
        </p>
      )}
      <div className="grid grid-cols-1 gap-x-4 gap-y-2 lg:grid-cols-2">
        {changed.slice(0, MAX_CHARTS).map((one) => (
          <Figure key={one.text} of={one} onRemove={removal(one.text)} />
        ))}
      </div>
      {changed.length > MAX_CHARTS && <p className="text-muted">and {changed.length - MAX_CHARTS} more that change</p>}
      {changed.length > 0 && same.length > 0 && (
        <p className="text-muted">{same.length === 1 ? "1 other stays" : `${same.length} others stay`} the same.</p>
      )}
      {silent.map(({ text, problem }) => (
        <p key={text}>
          <span className="num font-semibold">{text}</span>{" "}
          <span className="text-warning">◆ {problem ?? "nothing of it came in these minutes"}</span>{" "}
          {own.texts.includes(text) && <Leave text={text} onRemove={() => own.remove(text)} />}
        </p>
      ))}
      {same
        .filter(({ text }) => own.texts.includes(text))
        .map(({ text }) => (
          <p key={text} className="text-muted">
            <span className="num font-semibold">{text}</span> stays the same{" "}
            <Leave text={text} onRemove={() => own.remove(text)} />
          </p>
        ))}
      <AddReading own={own} />
    </section>
  );
}
