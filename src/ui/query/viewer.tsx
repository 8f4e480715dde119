"use client";

import { createContext, type ReactNode, useContext, useEffect, useState, useSyncExternalStore } from "react";
import { Clock } from "./clock";
import { ZONE_COOKIE } from "./zoneCookie";

/** The viewer's clock and time zone, one for the whole page: all that moves on with the clock moves on together. */

const REFRESH = 5000;
const YEAR = 365 * 86_400;

const ClockContext = createContext(new Clock(0));
const ZoneContext = createContext("UTC");

/**
 * @param opened the server's clock when the document was made, Unix ms: the first answers are of that moment. The
 * browser's own counts where the two differ by more than a refresh.
 * @param told the zone that the viewer's browser has told before, by which the document was drawn; null where it has not
 */
export function ViewerScope({ opened, told, children }: { opened: number; told: string | null; children: ReactNode }) {
  const [clock] = useState(() => new Clock(told === null ? 0 : opened));
  const [zone, setZone] = useState(told ?? "UTC");
  useEffect(() => {
    const own = Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC";
    // biome-ignore lint/suspicious/noDocumentCookie: the store of cookies is not in all browsers
    document.cookie = `${ZONE_COOKIE}=${encodeURIComponent(own)}; path=/; max-age=${YEAR}; samesite=lax`;
    const here = Date.now();
    setZone(own);
    clock.set(Math.abs(here - opened) < REFRESH ? opened : here);
    const timer = setInterval(() => {
      if (document.visibilityState === "visible") clock.set(Date.now());
    }, REFRESH);
    return () => clearInterval(timer);
  }, [opened, clock]);
  return (
    <ClockContext value={clock}>
      <ZoneContext value={zone}>{children}</ZoneContext>
    </ClockContext>
  );
}

/**
 * What follows from now, which moves on by the refresh interval and is 0 until the page runs in the browser. Who asks is
 * drawn anew only with another answer.
 */
export function useFromNow<T extends number | string | boolean | null>(of: (now: number) => T): T {
  const clock = useContext(ClockContext);
  const answer = () => of(clock.now);
  return useSyncExternalStore(clock.subscribe, answer, answer);
}

/** Now itself: who asks is drawn anew with every refresh. */
export function useNow(): number {
  return useFromNow((now) => now);
}

/** Now as a step of a grain (ms) that it lies in. */
export function useNowBy(grain: number): number {
  return useFromNow((now) => Math.floor(now / grain) * grain);
}

/** The viewer's time zone. */
export function useZone(): string {
  return useContext(ZoneContext);
}
