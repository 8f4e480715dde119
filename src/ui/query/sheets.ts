"use client";

import { useQuery } from "@tanstack/react-query";
import type { Pick as SheetPick } from "@/core/sheet/pick";
import { every } from "./answersClient";
import { ask } from "./api";
import { asking } from "./asking";
import { pickValuesQuestion, sheetQuestion, sheetsQuestion } from "./questions";

/** All sheets that the reader may see. */
export function useSheets() {
  return useQuery({
    ...asking(sheetsQuestion()),
    select: ({ sheets }) => sheets,
    staleTime: 5000,
    refetchInterval: every(30_000),
  });
}

/** A sheet as it was saved last. */
export function useSheet(id: string | null) {
  return useQuery({ ...asking(sheetQuestion(id ?? "none")), enabled: id !== null, refetchInterval: every(30_000) });
}

/** The values that a pick can have. @param picks what is chosen of those that it waits for @param link by which the sheet is seen without an account */
export function usePickValues(
  pick: Pick<SheetPick, "name" | "source"> | null,
  picks: Readonly<Record<string, readonly string[]>>,
  link: string | null,
) {
  const chosen = picks as Record<string, string[]>;
  const own = pick && link === null ? asking(pickValuesQuestion(pick, picks)) : null;
  return useQuery({
    queryKey: own?.queryKey ?? ["pick values", link, pick?.source, picks],
    queryFn: (context) =>
      own?.queryFn(context) ??
      ask("POST /api/shared/picks", { body: { link: link!, pick: pick!.name, picks: chosen } }, context.signal),
    enabled: pick !== null && pick.source.of !== "text",
    staleTime: 20_000,
  });
}
