"use client";

import { useSearchParams } from "next/navigation";
import { useMemo } from "react";
import { type Chosen, picksInAddress } from "@/core/sheet/chosen";

/** What is chosen of picks in the page's address. */
export function usePicks(): Chosen {
  const text = useSearchParams().toString();
  return useMemo(() => picksInAddress(new URLSearchParams(text)), [text]);
}
