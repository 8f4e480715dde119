"use client";

import { keepPreviousData, type QueryClient, useQueries, useQuery } from "@tanstack/react-query";

import { useMemo } from "react";
import type { LadderAnswer, RailAnswer, ReleaseEntry } from "@/core/api/releases";
import type { ReadingResult, ServicePlace } from "@/core/reading/result";
import { placeIn } from "@/core/service/place";
import type { Chosen } from "@/core/sheet/chosen";
import { HOUR, MINUTE } from "@/core/window/lengths";
import { judgedSpan, railSpan, type Span } from "@/core/window/window";
import { every } from "./answersClient";
import { ask, isRefusal } from "./api";
import { asking } from "./asking";
import { useSpanQuery } from "./awaited";
import { usePlace, useSpanFromNow, useZone } from "./place";
import {
  ladderQuestion,
  metricsQuestion,
  overviewQuestion,
  railAround,
  railQuestion,
  readingQuestion,
  releasesQuestion,
  storeQuestion,
} from "./questions";
import { type Asker, askReading, type VersionedResult } from "./together";

/** The services there are; asked again while nothing has arrived. */
export function useOverview() {
  return useQuery({
    ...asking(overviewQuestion()),
    refetchInterval: ({ state }) => (state.data?.services.length ? 15_000 : 1500),
  });
}

/** The service in hand: the one in the address, else the one with most to tell. */
export function useService(): ServicePlace | null {
  const { service, environment } = usePlace();
  const { data } = useOverview();
  return useMemo(() => (data ? placeIn(data.services, service, environment) : null), [data, service, environment]);
}

export function useLadder(metric: string | null, span: Span | null) {
  const place = useService();
  const zone = useZone();
  const { choice } = usePlace();
  return useSpanQuery<LadderAnswer>([place, metric], span && judgedSpan(span, choice), (asked) => ({
    ...asking(ladderQuestion(place!, metric, asked!, zone)),
    enabled: place !== null && asked !== null,
    placeholderData: keepPreviousData,
  }));
}

const NO_PICKS: Chosen = {};

/** Answers a reading for a span; an empty text asks nothing. @param picks what is chosen of the picks that its text may name */
export function useReading(text: string, span: Span | null, picks: Chosen = NO_PICKS) {
  const zone = useZone();
  return useSpanQuery<ReadingResult>([text, picks], span, (asked) => readingQuery(text, asked, zone, picks));
}

/** A window that ended so long ago is over, ms, and is asked again so often. */
const OVER = 2 * HOUR;
const AGAIN = MINUTE;
const FAILED_AGAIN = 4000;

function againAfter({ state }: { state: { status: string; error: unknown } }): number {
  return state.status === "error" && !isRefusal(state.error) ? FAILED_AGAIN : AGAIN;
}

/** The query of a reading. */
export function readingQuery(text: string, span: Span | null, zone: string, picks: Chosen, asker: Asker = askReading) {
  const { queryKey } = readingQuestion(text, span!, zone, picks);
  return {
    queryKey,
    queryFn: ({ signal, client }: { signal: AbortSignal; client: QueryClient }) => {
      const held = client.getQueryData<VersionedResult>(queryKey);
      return asker({ text, span: span!, zone, picks, held }, signal);
    },
    enabled: text.trim() !== "" && span !== null,
    // Late points change what is over: it is asked again, and costs nothing where it is the same.
    ...(span !== null && span.to < Date.now() - OVER ? { refetchInterval: againAfter } : {}),
    placeholderData: (previous: ReadingResult | undefined, query?: { queryKey: readonly unknown[] }) =>
      query?.queryKey[1] === text && JSON.stringify(query.queryKey[4]) === JSON.stringify(queryKey[4])
        ? previous
        : undefined,
  };
}

/** Traffic and release marks along the time rail. */
export function useRail(span: Span | null) {
  const place = useService();
  const around = useSpanFromNow((now) => span && railAround(span, now));
  const shown = useSpanFromNow((now) => span && railSpan(span, now));
  const query = useSpanQuery<RailAnswer>(place, around, (asked) => ({
    ...asking(railQuestion(place!, asked!)),
    enabled: place !== null && asked !== null,
    placeholderData: keepPreviousData,
  }));
  return { ...query, span: shown };
}

/** A release where it was first heard, Unix ms. */
export interface Mark {
  /** As it is written beside its line. */
  release: string;
  at: number;
  /** What it is called by its series. */
  version?: string;
}

function releasesQuery(place: ServicePlace | null) {
  return {
    ...asking(releasesQuestion(place!)),
    enabled: place !== null,
    refetchInterval: every(15_000),
    select: ({ releases }: { releases: ReleaseEntry[] }): Mark[] =>
      releases.filter(({ release }) => release !== "").map(({ release, firstAt }) => ({ release, at: firstAt })),
  };
}

/** When each release of the service in hand was first heard, for going from one to the next. */
export function useMarks(): Mark[] {
  const { data } = useQuery(releasesQuery(useService()));
  return data ?? NO_MARKS;
}

const NO_MARKS: Mark[] = [];
/** Services whose releases are marked on one chart; of more, none are: nobody could tell whose they are. */
const MAX_MARKED = 3;

/** The releases of the services that an answer was read from, each called by its service where there are several. */
export function useMarksOf(result: ReadingResult | undefined): Mark[] {
  const places = result && result.services.length <= MAX_MARKED ? result.services : NO_PLACES;
  return useQueries({
    queries: places.map(releasesQuery),
    combine: (answers) =>
      places.flatMap(({ service }, i) =>
        (answers[i]?.data ?? NO_MARKS).map(({ release, at }) => ({
          release: places.length > 1 ? `${service} ${release}` : release,
          version: release,
          at,
        })),
      ),
  });
}

const NO_PLACES: ServicePlace[] = [];

/** What the store holds, and its costliest metrics with a text in their names; asked again while the page is open. */
export function useStore(find: string, rows: number) {
  return useQuery({
    ...asking(storeQuestion(find, rows)),
    placeholderData: keepPreviousData,
    refetchInterval: ({ state }) => (state.data?.purges.some(({ finishedAt }) => finishedAt === null) ? 1500 : 10_000),
  });
}

export function useMetrics() {
  return useQuery({
    ...asking(metricsQuestion()),
    select: ({ metrics }) => metrics,
    staleTime: 20_000,
  });
}

export function useAttributes(metric: string) {
  return useQuery({
    queryKey: ["attributes", metric],
    queryFn: ({ signal }) =>
      ask("GET /api/catalogue/attributes", { query: { metric } }, signal).then(({ attributes }) => attributes),
    enabled: metric !== "",
    staleTime: 20_000,
  });
}
