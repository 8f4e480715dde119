"use client";

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { ReadingOutcome } from "@/core/api/readings";
import type { InstanceEntry } from "@/core/api/services";
import type { ReadingResult } from "@/core/reading/result";
import type { ServicePlace } from "@/core/service/sections";
import { DEFAULT_SLOW } from "@/core/service/work";
import type { Span } from "@/core/window/window";
import { every } from "./answersClient";
import { asking } from "./asking";
import { useSpanQuery } from "./awaited";
import { useZone } from "./place";
import {
  instancesQuestion,
  sendersQuestion,
  serviceMetricsQuestion,
  serviceSectionsQuestion,
  slowQuestion,
  targetsQuestion,
  totalsQuestion,
} from "./questions";

/** The instances that were heard in a span; asked again every few seconds. */
export function useInstances(span: Span | null) {
  return useSpanQuery<{ instances: InstanceEntry[] }, InstanceEntry[]>(null, span, (asked) => ({
    ...asking(instancesQuestion(asked!)),
    enabled: asked !== null,
    placeholderData: keepPreviousData,
    select: ({ instances }) => instances,
  }));
}

export function useServiceMetrics(place: ServicePlace) {
  return useQuery({
    ...asking(serviceMetricsQuestion(place)),
    select: ({ metrics }) => metrics,
    enabled: place.service !== "",
    refetchInterval: every(15_000),
  });
}

/** What is always worth asking of a service. */
export function useServiceSections(place: ServicePlace | null) {
  return useQuery({
    ...asking(serviceSectionsQuestion(place ?? NOWHERE)),
    enabled: place !== null && place.service !== "",
    refetchInterval: every(15_000),
  });
}

const NOWHERE: ServicePlace = { service: "", environment: "" };

/** What counts as slow, by kind of work. */
export function useSlow() {
  return useQuery({
    ...asking(slowQuestion()),
    placeholderData: DEFAULT_SLOW,
    staleTime: 60_000,
  });
}

const NO_SPAN: Span = { from: 0, to: 0 };

/** Several readings over one span, each with one step as long as the span; null where one cannot be answered. */
export function useTotals(texts: readonly string[], span: Span | null) {
  const zone = useZone();
  return useSpanQuery<ReadingOutcome[], (ReadingResult | null)[]>(texts, span, (asked) => ({
    ...asking(totalsQuestion(texts, asked ?? NO_SPAN, zone)),
    enabled: asked !== null && texts.length > 0,
    placeholderData: keepPreviousData,
    select: (answers) => answers.map((one) => (one.ok ? one.value : null)),
  }));
}

/** How often a page asks that is about them, ms. */
const WATCHED = 3000;

/** Pages that are scraped. @param again how often to ask, ms */
export function useTargets(again = WATCHED) {
  return useQuery({
    ...asking(targetsQuestion()),
    select: ({ targets }) => targets,
    refetchInterval: every(again),
  });
}

/** Whether senders need a key, and who was turned away. @param again how often to ask, ms */
export function useSenders(again = WATCHED) {
  return useQuery({
    ...asking(sendersQuestion()),
    refetchInterval: every(again),
  });
}
