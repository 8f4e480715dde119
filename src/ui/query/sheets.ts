"use client";

import { useQuery } from "@tanstack/react-query";
import type { PickSource } from "@/core/sheet/pick";
import { ask } from "./api";
import { asking } from "./asking";
import { sheetQuestion, sheetsQuestion } from "./questions";

/** All sheets that the reader may see. */
export function useSheets() {
  return useQuery({ ...asking(sheetsQuestion()), select: ({ sheets }) => sheets, staleTime: 5000 });
}

/** A sheet as it was saved last. */
export function useSheet(id: string | null) {
  return useQuery({ ...asking(sheetQuestion(id ?? "none")), enabled: id !== null, refetchInterval: 30_000 });
}

/** The values that a pick can have. */
export function usePickValues(
  source: PickSource | null,
  picks: Readonly<Record<string, readonly string[]>>,
  enabled = true,
) {
  return useQuery({
    queryKey: ["pick values", source, picks],
    queryFn: ({ signal }) =>
      ask(
        "POST /api/picks/values",
        { body: { source: source as PickSource, picks: picks as Record<string, string[]> } },
        signal,
      ),
    enabled: enabled && source !== null && source.of !== "text",
    staleTime: 20_000,
  });
}
