"use client";

import { keepPreviousData, useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { AdviceAnswer, CataloguePart, LatestAnswer } from "@/core/api/instruments";
import type { Span } from "@/core/window/window";
import { every } from "./answersClient";
import { ask } from "./api";
import { asking } from "./asking";
import { useSpanQuery } from "./awaited";
import { useZone } from "./place";
import { findingsQuestion, instrumentsQuestion } from "./questions";

/** A part of the catalogue that came with the document need not be asked for again, ms. */
const JUST_CAME = 5000;

/** How often each part of the catalogue is asked for again, ms, where there is one; of more, so much less often. */
const AGAIN = 20_000;

/** The catalogue as far as it has come; it goes on by itself until all of it is there. */
export function useInstruments() {
  const client = useQueryClient();
  const first = instrumentsQuestion().queryKey;
  const { data, error, hasNextPage, isFetching, fetchNextPage } = useInfiniteQuery({
    queryKey: ["catalogue"],
    queryFn: ({ pageParam }) =>
      client.fetchQuery({ ...asking(instrumentsQuestion(pageParam)), staleTime: JUST_CAME, gcTime: JUST_CAME }),
    initialPageParam: "",
    getNextPageParam: ({ next }) => next,
    initialData: () => {
      const part = client.getQueryData<CataloguePart>(first);
      return part && { pages: [part], pageParams: [""] };
    },
    initialDataUpdatedAt: () => client.getQueryState(first)?.dataUpdatedAt,
    refetchInterval: (query) => every(AGAIN * Math.max(1, query.state.data?.pages.length ?? 1))(query),
    select: ({ pages }) => ({ entries: pages.flatMap(({ instruments }) => instruments), all: pages[0].all }),
  });
  useEffect(() => {
    if (hasNextPage && !isFetching && !error) void fetchNextPage();
  }, [hasNextPage, isFetching, error, fetchNextPage]);
  return { data, error };
}

/** Instruments with a contract, so many of them at most. */
export function useDefinedInstruments(rows: number) {
  return useQuery({
    queryKey: ["instruments", "defined", rows],
    queryFn: ({ signal }) => ask("GET /api/instruments", { query: { defined: "true", rows } }, signal),
    select: ({ instruments }) => instruments,
    refetchInterval: every(AGAIN),
  });
}

/** Metrics that have a value with a text in it; asks nothing for short texts. */
export function useMetricsWithValue(text: string) {
  return useQuery<{ name: string; found: string }[]>({
    queryKey: ["metrics with value", text],
    queryFn: ({ signal }) =>
      ask("GET /api/instruments/having", { query: { value: text } }, signal).then(({ found }) => found),
    enabled: text.length >= 2,
    staleTime: 20_000,
    placeholderData: keepPreviousData,
  });
}

export function useInstrument(name: string) {
  return useQuery({
    queryKey: ["instrument", name],
    queryFn: ({ signal }) => ask("GET /api/instruments/one", { query: { metric: name } }, signal),
    enabled: name !== "",
    refetchInterval: every(AGAIN),
  });
}

export function useLatest(name: string, span: Span | null) {
  return useSpanQuery<LatestAnswer>(name, span, (asked) => ({
    queryKey: ["latest", name, asked],
    queryFn: ({ signal }) => ask("GET /api/instruments/latest", { query: { metric: name, ...asked! } }, signal),
    enabled: asked !== null,
    placeholderData: keepPreviousData,
  }));
}

export function useAdvice(name: string, span: Span | null, percents: string, count: number) {
  const zone = useZone();
  return useSpanQuery<AdviceAnswer>([name, percents, count], span, (asked) => ({
    queryKey: ["advice", name, asked, percents, count, zone],
    queryFn: ({ signal }) =>
      ask("GET /api/instruments/advice", { query: { metric: name, ...asked!, percents, count, zone } }, signal),
    enabled: asked !== null,
    placeholderData: keepPreviousData,
  }));
}

export function useFindings() {
  return useQuery({
    ...asking(findingsQuestion()),
    select: ({ findings }) => findings,
    refetchInterval: 10_000,
  });
}

export function useContractHistory(name: string) {
  return useQuery({
    queryKey: ["contract", name],
    queryFn: ({ signal }) =>
      ask("GET /api/contracts/versions", { query: { name } }, signal).then(({ versions }) => versions),
    enabled: name !== "",
  });
}
