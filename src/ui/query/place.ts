"use client";

import { parseAsInteger, parseAsString, useQueryStates } from "nuqs";
import { useCallback, useEffect, useMemo, useState } from "react";
import { DURATIONS } from "@/core/reading/parse";
import { printLast, type Span, spanOfChoice, type WindowChoice } from "@/core/window/window";

/** What stands in the address: the window, and the service and environment that are looked at. */

const LAST = "6h";
const REFRESH = 5000;

const parsers = {
  last: parseAsString,
  from: parseAsInteger,
  to: parseAsInteger,
  /** The release that a jump went to, by when it was first heard. */
  mark: parseAsInteger,
  service: parseAsString,
  environment: parseAsString,
};

function lengthOf(text: string): number {
  const match = /^(\d+)(ms|s|m|h|d|w)$/.exec(text);
  return match ? Number(match[1]) * DURATIONS[match[2]] : 6 * 3600_000;
}

export interface Place {
  choice: WindowChoice;
  service: string | null;
  environment: string | null;
  /** The moment of the release that the window was put around, if it was. */
  mark: number | null;
  chooseWindow: (choice: WindowChoice, mark?: number) => void;
  chooseService: (service: string, environment: string) => void;
}

export function usePlace(): Place {
  const [state, setState] = useQueryStates(parsers, { history: "push" });
  const choice = useMemo<WindowChoice>(
    () =>
      state.from !== null && state.to !== null && state.to > state.from
        ? { type: "fixed", from: state.from, to: state.to }
        : { type: "last", length: lengthOf(state.last ?? LAST) },
    [state.from, state.to, state.last],
  );
  const chooseWindow = useCallback(
    (next: WindowChoice, mark?: number) => {
      void setState(
        next.type === "last"
          ? { last: printLast(next.length), from: null, to: null, mark: null }
          : { last: null, from: next.from, to: next.to, mark: mark ?? null },
      );
    },
    [setState],
  );
  const chooseService = useCallback(
    (service: string, environment: string) => {
      void setState({ service, environment: environment === "" ? null : environment });
    },
    [setState],
  );
  return {
    choice,
    service: state.service,
    environment: state.environment,
    mark: state.mark,
    chooseWindow,
    chooseService,
  };
}

/** Now, to the refresh interval; 0 until the page runs in the browser. */
export function useNow(): number {
  const [now, setNow] = useState(0);
  useEffect(() => {
    setNow(Date.now());
    const timer = setInterval(() => {
      if (document.visibilityState === "visible") setNow(Date.now());
    }, REFRESH);
    return () => clearInterval(timer);
  }, []);
  return now;
}

/** The span that the page shows now; null until it is known in the browser. */
export function useSpan(): Span | null {
  const { choice } = usePlace();
  const now = useNow();
  const span = now === 0 ? null : spanOfChoice(choice, now);
  const from = span?.from;
  const to = span?.to;
  return useMemo(() => (from === undefined || to === undefined ? null : { from, to }), [from, to]);
}

/** The viewer's time zone. */
export function useZone(): string {
  const [zone, setZone] = useState("UTC");
  useEffect(() => setZone(Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC"), []);
  return zone;
}
