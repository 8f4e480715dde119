"use client";

import { parseAsInteger, parseAsString, useQueryStates } from "nuqs";
import { useCallback, useMemo } from "react";
import { choiceOf, printLast, type Span, spanOfChoice, type WindowChoice } from "@/core/window/window";
import { useFromNow } from "./viewer";

export { useFromNow, useNow, useNowBy, useZone } from "./viewer";

/** What stands in the address: the window, and the service and environment that are looked at. */

const parsers = {
  last: parseAsString,
  from: parseAsInteger,
  to: parseAsInteger,
  /** The release that a jump went to, by when it was first heard. */
  mark: parseAsInteger,
  service: parseAsString,
  environment: parseAsString,
};

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
  const { last, from, to } = state;
  const choice = useMemo<WindowChoice>(() => choiceOf({ last, from, to }), [last, from, to]);
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

/** A span that follows from now, the same one as long as its ends are; null until now is known, and where there is none. */
export function useSpanFromNow(of: (now: number) => Span | null): Span | null {
  const from = useFromNow((now) => (now === 0 ? null : (of(now)?.from ?? null)));
  const to = useFromNow((now) => (now === 0 ? null : (of(now)?.to ?? null)));
  return useMemo(() => (from === null || to === null ? null : { from, to }), [from, to]);
}

/** The span that the page shows now; null until it is known in the browser. */
export function useSpan(): Span | null {
  const { choice } = usePlace();
  return useSpanFromNow((now) => spanOfChoice(choice, now));
}
