"use client";

import { createContext, type ReactNode, useContext, useEffect, useState } from "react";
import { ZONE_COOKIE } from "./zoneCookie";

/** The viewer's clock and time zone, one for the whole page: all that moves on with the clock moves on together. */

const REFRESH = 5000;
const YEAR = 365 * 86_400;

interface Viewer {
  now: number;
  zone: string;
}

const ViewerContext = createContext<Viewer>({ now: 0, zone: "UTC" });

/**
 * @param opened the server's clock when the document was made, Unix ms: the first answers are of that moment. The
 * browser's own counts where the two differ by more than a refresh.
 * @param told the zone that the viewer's browser has told before, by which the document was drawn; null where it has not
 */
export function ViewerScope({ opened, told, children }: { opened: number; told: string | null; children: ReactNode }) {
  const [viewer, setViewer] = useState<Viewer>(told === null ? { now: 0, zone: "UTC" } : { now: opened, zone: told });
  useEffect(() => {
    const zone = Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC";
    // biome-ignore lint/suspicious/noDocumentCookie: the store of cookies is not in all browsers
    document.cookie = `${ZONE_COOKIE}=${encodeURIComponent(zone)}; path=/; max-age=${YEAR}; samesite=lax`;
    const here = Date.now();
    const now = Math.abs(here - opened) < REFRESH ? opened : here;
    setViewer((before) => (before.now === now && before.zone === zone ? before : { now, zone }));
    const timer = setInterval(() => {
      if (document.visibilityState === "visible") setViewer({ now: Date.now(), zone });
    }, REFRESH);
    return () => clearInterval(timer);
  }, [opened]);
  return <ViewerContext value={viewer}>{children}</ViewerContext>;
}

/** Now, to the refresh interval; 0 until the page runs in the browser. */
export function useNow(): number {
  return useContext(ViewerContext).now;
}

/** The viewer's time zone. */
export function useZone(): string {
  return useContext(ViewerContext).zone;
}
