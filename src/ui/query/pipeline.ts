"use client";

import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { DEFAULT_PRICE, type Price } from "@/core/api/pipeline";
import { every } from "./answersClient";
import { ask } from "./api";

export function usePipeline() {
  return useQuery({
    queryKey: ["pipeline"],
    queryFn: ({ signal }) => ask("GET /api/pipeline", {}, signal),
    refetchInterval: 5000,
  });
}

/** What the team pays a month, and how to change it for all. */
export function usePrice(): { price: Price; change: (part: Partial<Price>) => Promise<void> } {
  const client = useQueryClient();
  const { data } = useQuery({
    queryKey: ["price"],
    queryFn: ({ signal }) => ask("GET /api/pipeline/price", {}, signal),
    placeholderData: DEFAULT_PRICE,
    staleTime: 60_000,
  });
  const change = async (part: Partial<Price>) => {
    await ask("PUT /api/pipeline/price", { body: part });
    await client.invalidateQueries({ queryKey: ["price"] });
  };
  return { price: data ?? DEFAULT_PRICE, change };
}

/** How series grew since then. @param back ms */
export function useGrowth(back: number) {
  return useQuery({
    queryKey: ["growth", back],
    queryFn: ({ signal }) => ask("GET /api/pipeline/growth", { query: { back } }, signal),
    refetchInterval: every(60_000),
    placeholderData: keepPreviousData,
  });
}

/** Every contract that counts now. */
export function useContracts() {
  return useQuery({
    queryKey: ["contracts"],
    queryFn: ({ signal }) =>
      ask("GET /api/contracts", {}, signal).then(({ contracts }) => contracts.map(({ body }) => body)),
    staleTime: 60_000,
  });
}

/** What stands on all sheets, reading by reading. @param wanted whether it is needed now */
export function usePlates(wanted: boolean) {
  return useQuery({
    queryKey: ["plates"],
    queryFn: ({ signal }) => ask("GET /api/plates", {}, signal),
    enabled: wanted,
    staleTime: 60_000,
  });
}
