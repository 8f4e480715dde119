"use client";

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { InstanceEntry } from "@/core/api/services";
import type { ReadingResult } from "@/core/reading/result";
import { DEFAULT_SLOW, type ServicePlace } from "@/core/service/sections";
import type { Span } from "@/core/window/window";
import { ask } from "./api";
import { useSpanQuery } from "./awaited";
import { useZone } from "./place";

/** The instances that were heard in a span; asked again every few seconds. */
export function useInstances(span: Span | null) {
  return useSpanQuery<InstanceEntry[]>(null, span, (asked) => ({
    queryKey: ["instances", asked],
    queryFn: ({ signal }) => ask("GET /api/services", { query: asked! }, signal).then(({ instances }) => instances),
    enabled: asked !== null,
    placeholderData: keepPreviousData,
  }));
}

export function useServiceMetrics(place: ServicePlace) {
  return useQuery({
    queryKey: ["service metrics", place],
    queryFn: ({ signal }) => ask("GET /api/services/metrics", { query: place }, signal).then(({ metrics }) => metrics),
    refetchInterval: 15_000,
  });
}

/** What counts as slow, by kind of work. */
export function useSlow() {
  return useQuery({
    queryKey: ["slow"],
    queryFn: ({ signal }) => ask("GET /api/slow", {}, signal),
    placeholderData: DEFAULT_SLOW,
    staleTime: 60_000,
  });
}

/** Several readings over one span, each with one step as long as the span; null where one cannot be answered. */
export function useTotals(texts: readonly string[], span: Span | null) {
  const zone = useZone();
  return useSpanQuery<(ReadingResult | null)[]>(texts, span, (asked) => ({
    queryKey: ["totals", texts, asked, zone],
    queryFn: () =>
      ask("POST /api/readings", {
        body: { readings: texts.map((text) => ({ text, every: asked!.to - asked!.from })), ...asked!, zone },
      }).then((answers) => answers.map((one) => (one.ok ? one.value : null))),
    enabled: asked !== null && texts.length > 0,
    placeholderData: keepPreviousData,
  }));
}

export function useTargets() {
  return useQuery({
    queryKey: ["targets"],
    queryFn: ({ signal }) => ask("GET /api/targets", {}, signal).then(({ targets }) => targets),
    refetchInterval: 3000,
  });
}

export function useSenders() {
  return useQuery({
    queryKey: ["senders"],
    queryFn: ({ signal }) => ask("GET /api/senders", {}, signal),
    refetchInterval: 3000,
  });
}
