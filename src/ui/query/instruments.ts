"use client";

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { AdviceAnswer, LatestAnswer } from "@/core/api/instruments";
import type { Span } from "@/core/window/window";
import { ask } from "./api";
import { asking } from "./asking";
import { useSpanQuery } from "./awaited";
import { useZone } from "./place";
import { findingsQuestion, instrumentsQuestion } from "./questions";

export function useInstruments() {
  return useQuery({
    ...asking(instrumentsQuestion()),
    select: ({ instruments }) => instruments,
    refetchInterval: 20_000,
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
    refetchInterval: 10_000,
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
