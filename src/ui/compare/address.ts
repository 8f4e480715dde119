"use client";

import { parseAsArrayOf, parseAsString, useQueryStates } from "nuqs";
import { useMemo } from "react";
import { type HeldValue, heldFrom, heldText } from "@/core/api/held";

import { HOLD_SEPARATOR } from "../query/compared";

/** What stands in the address of a comparison, beside the service and the window. */

const parsers = {
  release: parseAsString,
  against: parseAsString,
  againstService: parseAsString,
  againstEnvironment: parseAsString,
  metric: parseAsString,
  by: parseAsString,
  hold: parseAsArrayOf(parseAsString, HOLD_SEPARATOR),
  kept: parseAsString,
};

export function useCompared() {
  const [state, setState] = useQueryStates(parsers, { history: "push" });
  const texts = JSON.stringify(state.hold ?? []);
  const hold = useMemo(() => (JSON.parse(texts) as string[]).map(heldFrom), [texts]);
  /** Holds everything to values as well, or to one less. */
  const setHold = (next: readonly HeldValue[]) => {
    const kept = new Map(next.map((one) => [one.attribute, one]));
    void setState({ hold: kept.size === 0 ? null : [...kept.values()].map(heldText) });
  };
  return { ...state, hold, setHold, setState };
}
