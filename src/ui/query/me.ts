"use client";

import { useQuery } from "@tanstack/react-query";
import type { Right } from "@/core/access/rights";
import { asking } from "./asking";
import { meQuestion } from "./questions";

/** Who looks at the pages. */
export function useMe() {
  return useQuery({ ...asking(meQuestion()), staleTime: 60_000 });
}

/** Whether who looks has a right. The server decides; a page only does not offer what would be refused. */
export function useMay(right: Right): boolean {
  return useMe().data?.rights.includes(right) ?? false;
}
