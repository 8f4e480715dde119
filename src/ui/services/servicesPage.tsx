"use client";

import { parseAsString, parseAsStringLiteral, useQueryState } from "nuqs";
import { useDeferredValue, useMemo } from "react";
import { instanceKey, type Vital, vitalReadings, vitalValues } from "@/core/service/vitals";
import type { Span } from "@/core/window/window";
import { count } from "../frame/amounts";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { ProblemNote } from "../frame/problemNote";
import { SearchField } from "../frame/searchField";
import { duration } from "../frame/times";
import { useNow, useSpan } from "../query/place";
import { useInstances, useSenders, useTargets, useTotals } from "../query/services";
import { useMetrics } from "../query/use";
import { Slot } from "../sentence/slot";
import { InstanceTable } from "./instanceTable";
import { matching } from "./lines";
import { groupsOf, type InstanceRow, rowOf, SORTS } from "./rows";
import { vitalSpan } from "./vitalSpan";

/** The vital signs of instances in a span. */
function useVitals(span: Span | null): Map<string, InstanceRow["vitals"]> {
  const metrics = useMetrics();
  const readings = useMemo(() => vitalReadings(new Set((metrics.data ?? []).map(({ name }) => name))), [metrics.data]);
  const { data } = useTotals(
    readings.map(({ reading }) => reading),
    span,
  );
  return useMemo(() => {
    const vitals = new Map<string, Partial<Record<Vital, number>>>();
    data?.forEach((result, i) => {
      if (!result || !readings[i]) return;
      for (const [key, value] of vitalValues(result)) {
        const known = vitals.get(key) ?? {};
        // The ways to know one come in order: the first that says something counts.
        known[readings[i].vital] ??= value;
        vitals.set(key, known);
      }
    });
    return vitals;
  }, [data, readings]);
}

function plural(amount: number, one: string, many = `${one}s`): string {
  return `${count(amount)} ${amount === 1 ? one : many}`;
}

/** How often the page asks what else comes in, ms: as often as all else on it. */
const AS_THE_REST = 15_000;

/** What else comes in: targets, keys, and who was turned away. */
function Ways() {
  const carried = useCarried();
  const targets = useTargets(AS_THE_REST);
  const senders = useSenders(AS_THE_REST);
  const failing = targets.data?.filter(({ last }) => last?.failure).length ?? 0;
  const turned = senders.data?.rejected.length ?? 0;
  const inForce = senders.data?.keys.length ?? 0;
  return (
    <p className="ml-auto flex flex-wrap items-baseline gap-x-4">
      <Link className="slot" href={`/services/targets${carried}`}>
        {plural(targets.data?.length ?? 0, "target")} scraped
        {failing > 0 && <span className="text-error"> ✕ {failing} failing</span>}
      </Link>
      <Link className="slot" href={`/services/senders${carried}`}>
        {plural(inForce, "key")} to send
        {turned > 0 && <span className="text-warning">, ◆ {plural(turned, "sender")} turned away</span>}
      </Link>
      <Link className="btn btn-sm btn-primary" href={`/services/add${carried}`}>
        Add a source
      </Link>
    </p>
  );
}

const SORT_WORDS: Record<(typeof SORTS)[number], string> = {
  name: "name",
  silence: "silence",
  points: "points a minute",
  series: "series",
  memory: "memory",
  processor: "processor time",
  garbage: "garbage collection",
};

/** So few instances are found by looking. */
const MAX_UNSEARCHED = 20;

/** Who reports: every service, release and instance that was heard in the window. */
export function ServicesPage() {
  const now = useNow();
  const span = useSpan();
  const { data, error } = useInstances(span);
  const lately = span && vitalSpan(span);
  const vitals = useVitals(lately);
  const [by, setBy] = useQueryState("group", parseAsString.withDefault("service.name"));
  const [sort, setSort] = useQueryState("sort", parseAsStringLiteral(SORTS).withDefault("name"));
  const rows = useMemo(
    () =>
      (data ?? []).map((entry) =>
        rowOf(
          entry,
          vitals.get(instanceKey(entry.service, entry.release, entry.environment, entry.instance)) ?? {},
          now,
        ),
      ),
    [data, vitals, now],
  );
  const attributes = useMemo(
    () =>
      [...new Set(["service.name", "service.version", ...rows.flatMap((row) => Object.keys(row.attributes))])].sort(),
    [rows],
  );
  const [text, setText] = useQueryState("find", parseAsString.withDefault("").withOptions({ throttleMs: 300 }));
  const wanted = useDeferredValue(text);
  const found = useMemo(() => matching(rows, wanted), [rows, wanted]);
  const groups = useMemo(() => groupsOf(found, by, sort), [found, by, sort]);
  const silent = found.filter((row) => row.silent > 0).length;
  return (
    <>
      <header className="mb-3 flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <h1 className="text-[24px] font-bold leading-none">Services</h1>
        {(rows.length > MAX_UNSEARCHED || text !== "") && (
          <SearchField
            label="Find services and instances"
            placeholder="Any part of a name, release or id"
            text={text}
            onText={(next) => void setText(next)}
            className="w-60"
          />
        )}
        {data && span && (
          <p className="text-muted">
            {found !== rows && `${count(found.length)} of `}
            {plural(rows.length, "instance")} heard in the last {duration(span.to - span.from)}
            {silent > 0 && <span className="text-warning">, ◆ {silent} silent now</span>}, by{" "}
            <Slot
              name="resource attribute"
              options={attributes.map((value) => ({ value }))}
              onChoose={(value) => void setBy(value)}
            >
              {by}
            </Slot>
            , in order of{" "}
            <Slot
              name="order"
              options={SORTS.map((value) => ({ value, label: SORT_WORDS[value] }))}
              onChoose={(value) => void setSort(value as (typeof SORTS)[number])}
            >
              {SORT_WORDS[sort]}
            </Slot>
          </p>
        )}
        <Ways />
      </header>
      {error && !data && <ProblemNote error={error} />}
      {!data && !error && (
        <div role="status" aria-label="Reading…" className="plate space-y-3 p-4">
          {[0, 1, 2, 3].map((row) => (
            <div key={row} className="skeleton-bar h-5" style={{ width: `${90 - row * 12}%` }} />
          ))}
        </div>
      )}
      {data && rows.length === 0 && (
        <div className="plate p-4">
          <h2 className="font-bold">Nobody was heard in this window</h2>
          <p className="mt-1 text-muted">
            Widen the window on the time rail to see who reported before, or add a source that reports now.
          </p>
        </div>
      )}
      {data && rows.length > 0 && found.length === 0 && (
        <div className="plate p-4">
          <h2 className="font-bold">None of them has that in its name, release, id or attributes</h2>
          <p className="mt-1">
            <button type="button" className="slot" onClick={() => void setText(null)}>
              Show all {count(rows.length)}
            </button>
          </p>
        </div>
      )}
      {data && found.length > 0 && (
        <InstanceTable
          groups={groups}
          by={by}
          now={now}
          seconds={lately ? (lately.to - lately.from) / 1000 : 1}
          sort={sort}
          onSort={setSort}
        />
      )}
    </>
  );
}
