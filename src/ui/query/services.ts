"use client";

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { SendersAnswer } from "@/core/api/senders";
import type { InstanceEntry, ServiceMetric } from "@/core/api/services";
import type { TargetEntry } from "@/core/api/targets";
import type { ReadingResult } from "@/core/reading/result";
import { type ServicePlace, USUALLY_SLOW, type Work } from "@/core/service/sections";
import type { Span } from "@/core/window/window";
import { fetchJson, postJson } from "./api";
import { useSpanQuery } from "./awaited";
import { useZone } from "./place";

/** The instances that were heard in a span; asked again every few seconds. */
export function useInstances(span: Span | null) {
  return useSpanQuery<InstanceEntry[]>(null, span, (asked) => ({
    queryKey: ["instances", asked],
    queryFn: ({ signal }) =>
      fetchJson<{ instances: InstanceEntry[] }>("/api/services", { ...asked! }, signal).then(
        ({ instances }) => instances,
      ),
    enabled: asked !== null,
    placeholderData: keepPreviousData,
  }));
}

export function useServiceMetrics(place: ServicePlace) {
  return useQuery({
    queryKey: ["service metrics", place],
    queryFn: ({ signal }) =>
      fetchJson<{ metrics: ServiceMetric[] }>("/api/services", { ...place }, signal).then(({ metrics }) => metrics),
    refetchInterval: 15_000,
  });
}

/** What counts as slow, by kind of work. */
export function useSlow() {
  return useQuery({
    queryKey: ["slow"],
    queryFn: ({ signal }) => fetchJson<Record<Work, number>>("/api/slow", {}, signal),
    placeholderData: USUALLY_SLOW,
    staleTime: 60_000,
  });
}

/** Several readings over one span, each with one step as long as the span; null where one cannot be answered. */
export function useTotals(texts: readonly string[], span: Span | null) {
  const zone = useZone();
  return useSpanQuery<(ReadingResult | null)[]>(texts, span, (asked) => ({
    queryKey: ["totals", texts, asked, zone],
    queryFn: () =>
      postJson<({ ok: true; value: ReadingResult } | { ok: false })[]>("/api/readings", {
        readings: texts.map((text) => ({ text, every: asked!.to - asked!.from })),
        ...asked!,
        zone,
      }).then((answers) => answers.map((one) => (one.ok ? one.value : null))),
    enabled: asked !== null && texts.length > 0,
    placeholderData: keepPreviousData,
  }));
}

export function useTargets() {
  return useQuery({
    queryKey: ["targets"],
    queryFn: ({ signal }) =>
      fetchJson<{ targets: TargetEntry[] }>("/api/targets", {}, signal).then(({ targets }) => targets),
    refetchInterval: 3000,
  });
}

export function useSenders() {
  return useQuery({
    queryKey: ["senders"],
    queryFn: ({ signal }) => fetchJson<SendersAnswer>("/api/senders", {}, signal),
    refetchInterval: 3000,
  });
}
