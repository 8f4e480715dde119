"use client";

import { useCallback, useEffect, useState } from "react";

/** Readings that drafts are tried on as well, kept in this browser. */

const KEY = "tin-ladder readings to try";
export const MAX_OWN = 8;

export interface OwnReadings {
  texts: readonly string[];
  add: (text: string) => void;
  remove: (text: string) => void;
}

function stored(): string[] {
  try {
    const value = JSON.parse(localStorage.getItem(KEY) ?? "[]") as unknown;
    return Array.isArray(value) ? value.filter((one) => typeof one === "string").slice(0, MAX_OWN) : [];
  } catch {
    return [];
  }
}

export function useOwnReadings(): OwnReadings {
  const [texts, setTexts] = useState<readonly string[]>([]);
  useEffect(() => setTexts(stored()), []);
  const keep = useCallback((next: readonly string[]) => {
    setTexts(next);
    localStorage.setItem(KEY, JSON.stringify(next));
  }, []);
  return {
    texts,
    add: (text) => keep([...texts.filter((one) => one !== text), text].slice(-MAX_OWN)),
    remove: (text) => keep(texts.filter((one) => one !== text)),
  };
}
