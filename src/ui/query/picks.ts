"use client";

import { useSearchParams } from "next/navigation";
import { useMemo } from "react";
import { addressName, type Chosen } from "@/core/sheet/pick";

const BEGIN = addressName("");

/** What is chosen of picks in an address, by their names. */
export function picksIn(parameters: URLSearchParams): Chosen {
  const names = [...new Set(parameters.keys())].filter((key) => key.startsWith(BEGIN));
  return Object.fromEntries(names.map((key) => [key.slice(BEGIN.length), parameters.getAll(key)]));
}

/** What is chosen of picks in the page's address. */
export function usePicks(): Chosen {
  const text = useSearchParams().toString();
  return useMemo(() => picksIn(new URLSearchParams(text)), [text]);
}
