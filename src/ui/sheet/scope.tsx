"use client";

import { useQueries } from "@tanstack/react-query";
import { createContext, useContext, useMemo } from "react";
import type { ReadingResult } from "@/core/reading/result";
import { type Chosen, chosenWords } from "@/core/sheet/chosen";
import { heldReading } from "@/core/sheet/holds";
import type { Repair } from "@/core/sheet/repair";
import type { Sheet } from "@/core/sheet/sheet";
import { needsIn } from "@/core/sheet/uses";
import type { Span } from "@/core/window/window";
import { ask } from "../query/api";
import { type Answered, useSpanQueries } from "../query/awaited";
import { useZone } from "../query/place";
import { askShared } from "../query/shared";
import { readingQuery } from "../query/use";
import type { SheetAddress } from "./address";

/** What all plates of a sheet share: what is picked, what the sheet is held to, and the earlier window. */
export interface Scope {
  picks: Chosen;
  /** Picks that have to be something, and for which nothing is known yet. */
  unknown: readonly string[];
  holds: SheetAddress["holds"];
  against: SheetAddress["against"];
  /** The link by which it is seen without an account; null for who is signed in. */
  link: string | null;
  /** Puts a name right on all sheets: asks first. It stays open when the plate that it began from has something to show. */
  onRepair?: (repair: Repair) => void;
  /** Does something with a value of a plate: opens what can be done with it. Missing where nothing can. */
  onValue?: (labels: Record<string, string | null>, at: { x: number; y: number }, text: string) => void;
}

export const NO_SCOPE: Scope = { picks: {}, unknown: [], holds: [], against: null, link: null };

const Shared = createContext<Scope>(NO_SCOPE);
export const SheetScope = Shared.Provider;

export function useScope(): Scope {
  return useContext(Shared);
}

/** What is chosen of a pick in the middle of a text: "Brindle", "any depot". */
export function pickWords(sheet: Sheet, picks: Chosen): (name: string) => string | undefined {
  return (name) => {
    const pick = sheet.picks.find((one) => one.name === name);
    const values = picks[name] ?? [];
    if (!pick) return undefined;
    return values.length === 0 ? `any ${pick.words}` : chosenWords(values);
  };
}

/** The readings with the tests of what the sheet is held to. Null until the attributes of their metrics are known. */
export function useHeldReadings(texts: readonly string[]): string[] | null {
  const { holds } = useScope();
  const metrics = useMemo(
    () => (holds.length === 0 ? [] : [...new Set(texts.flatMap((text) => needsIn(text).map(({ metric }) => metric)))]),
    [texts, holds],
  );
  const { ready, names } = useQueries({
    queries: metrics.map((metric) => ({
      queryKey: ["attributes", metric],
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        ask("GET /api/catalogue/attributes", { query: { metric } }, signal).then(({ attributes }) => attributes),
      staleTime: 20_000,
    })),
    combine: (all) => ({
      ready: all.every(({ data, error }) => data !== undefined || error !== null),
      names: JSON.stringify(all.map(({ data }) => data?.map(({ name }) => name) ?? [])),
    }),
  });
  return useMemo(() => {
    if (holds.length === 0) return [...texts];
    if (!ready) return null;
    const known = JSON.parse(names) as string[][];
    const has = (metric: string, attribute: string) => known[metrics.indexOf(metric)]?.includes(attribute) ?? false;
    return texts.map((text) => heldReading(text, holds, has));
  }, [texts, holds, ready, names, metrics]);
}

/**
 * Answers readings for a span and, where `back` is above 0, for the one that lies so many ms before, each with the sheet's
 * picks. Both are asked about one span: neither moves on while the other is on its way. Answers of the span before stay until
 * the next are there.
 */
export function useReadings(
  texts: readonly string[] | null,
  span: Span | null,
  back: number,
): { answers: Answered<ReadingResult>[]; earlier: Answered<ReadingResult>[] } {
  const zone = useZone();
  const { picks, unknown, link } = useScope();
  const asker = useMemo(() => (link === null ? undefined : askShared(link)), [link]);
  const asked = unknown.length === 0 ? (texts ?? []) : [];
  const all = useSpanQueries([asked, picks, back], span, (over) => {
    const about = (window: Span | null) => asked.map((text) => readingQuery(text, window, zone, picks, asker));
    if (back === 0) return about(over);
    return [...about(over), ...about(over && { from: over.from - back, to: over.to - back })];
  });
  return { answers: all.slice(0, asked.length), earlier: all.slice(asked.length) };
}
