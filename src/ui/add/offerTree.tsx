"use client";

import { useMemo, useState } from "react";
import { type Choice, collects } from "@/core/openmetrics/choice";
import type { OfferedMetric } from "@/core/openmetrics/offer";
import { count } from "../frame/amounts";
import { Blank } from "../sentence/blank";
import { Slot } from "../sentence/slot";

/** Metrics shown at a time; a search narrows them. */
const MAX_SHOWN = 200;

const MODES: Record<Choice["type"], string> = {
  all: "everything",
  metrics: "the metrics ticked below",
  pattern: "metrics whose name looks like",
};

function matches(metric: OfferedMetric, words: readonly string[]): boolean {
  return words.every(
    (word) =>
      metric.name.toLowerCase().includes(word) ||
      metric.attributes.some(
        ({ name, values }) =>
          name.toLowerCase().includes(word) || values.some(({ value }) => value.toLowerCase().includes(word)),
      ),
  );
}

/** The choice, as a test of names; a pattern that is not understood collects nothing. */
function test(choice: Choice): (name: string) => boolean {
  try {
    return collects(choice);
  } catch {
    return () => false;
  }
}

function Attributes({ metric }: { metric: OfferedMetric }) {
  if (metric.attributes.length === 0) return <p className="pl-7 text-muted">no attributes: one series</p>;
  return (
    <ul className="space-y-0.5 pb-1 pl-7">
      {metric.attributes.map(({ name, distinct, values }) => (
        <li key={name}>
          <span className="num font-semibold">{name}</span>{" "}
          <span className="text-muted">
            {distinct} {distinct === 1 ? "value" : "values"}:
          </span>{" "}
          <span className="num text-[12.5px]">
            {values.map(({ value, series }) => `${value} (${count(series)})`).join(", ")}
            {distinct > values.length && ` and ${distinct - values.length} more`}
          </span>
        </li>
      ))}
    </ul>
  );
}

/** Everything a target offers, and what of it is collected. */
export function OfferTree({
  offer,
  choice,
  onChoose,
}: {
  offer: readonly OfferedMetric[];
  choice: Choice;
  onChoose: (choice: Choice) => void;
}) {
  const [search, setSearch] = useState("");
  const [open, setOpen] = useState<ReadonlySet<string>>(new Set());
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const found = useMemo(() => offer.filter((metric) => matches(metric, words)), [offer, words]);
  const taken = test(choice);
  const sum = (list: readonly OfferedMetric[]) => list.reduce((total, { series }) => total + series, 0);
  const chosen = offer.filter(({ name }) => taken(name));
  const toggle = (names: readonly string[], on: boolean) => {
    const now = new Set(chosen.map(({ name }) => name));
    for (const name of names) {
      if (on) now.add(name);
      else now.delete(name);
    }
    onChoose({ type: "metrics", names: [...now].sort() });
  };
  const flip = (name: string) => {
    const next = new Set(open);
    if (!next.delete(name)) next.add(name);
    setOpen(next);
  };
  return (
    <section className="plate mt-3 px-3 py-2" aria-label="What it offers">
      <p className="text-[15px]">
        Collect{" "}
        <Slot
          name="what is collected"
          options={(Object.keys(MODES) as Choice["type"][]).map((value) => ({ value, label: MODES[value] }))}
          onChoose={(value) => {
            if (value === "all") onChoose({ type: "all" });
            else if (value === "metrics") onChoose({ type: "metrics", names: chosen.map(({ name }) => name) });
            else onChoose({ type: "pattern", pattern: ".*" });
          }}
        >
          {MODES[choice.type]}
        </Slot>
        {choice.type === "pattern" && (
          <>
            {" "}
            <Blank
              name="pattern"
              value={choice.pattern}
              onChange={(pattern) => onChoose({ type: "pattern", pattern })}
              placeholder="http_.*"
            />
          </>
        )}
        : <b className="num">{count(chosen.length)}</b> of <span className="num">{count(offer.length)}</span> metrics,{" "}
        <b className="num">{count(sum(chosen))}</b> of <span className="num">{count(sum(offer))}</span> series
      </p>
      <div className="mt-2 flex items-baseline gap-3">
        <input
          type="search"
          aria-label="Search what it offers"
          placeholder="Any part of a name, attribute or value"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
          className="input input-sm w-80"
        />
        {words.length > 0 && (
          <>
            <span className="text-muted">{found.length} found</span>
            {[true, false].map((on) => (
              <button
                key={String(on)}
                type="button"
                className="slot"
                onClick={() =>
                  toggle(
                    found.map(({ name }) => name),
                    on,
                  )
                }
              >
                {on ? "tick these" : "untick these"}
              </button>
            ))}
          </>
        )}
      </div>
      <ul className="mt-2 max-h-[22rem] overflow-y-auto text-[13px]">
        {found.slice(0, MAX_SHOWN).map((metric) => (
          <li key={metric.name} className="border-b border-base-300/50 last:border-b-0">
            <div className="flex items-baseline gap-2 py-0.5">
              <input
                type="checkbox"
                className="checkbox checkbox-xs self-center"
                aria-label={`collect ${metric.name}`}
                checked={taken(metric.name)}
                onChange={(event) => toggle([metric.name], event.target.checked)}
              />
              <button
                type="button"
                className="num font-semibold break-all text-left hover:text-primary"
                aria-expanded={open.has(metric.name)}
                onClick={() => flip(metric.name)}
              >
                {open.has(metric.name) ? "▾" : "▸"} {metric.name}
              </button>
              <span className="text-muted">
                {metric.type}
                {metric.unit && `, ${metric.unit}`}
              </span>
              <span className="truncate text-muted">{metric.help}</span>
              <span className="num ml-auto whitespace-nowrap">{count(metric.series)} series</span>
            </div>
            {open.has(metric.name) && <Attributes metric={metric} />}
          </li>
        ))}
      </ul>
      {found.length > MAX_SHOWN && (
        <p className="text-muted">and {found.length - MAX_SHOWN} more; search narrows them</p>
      )}
      {found.length === 0 && (
        <p className="py-2 text-muted">Nothing it offers has that in its name, attributes or values</p>
      )}
    </section>
  );
}
