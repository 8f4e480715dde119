"use client";

import { useMemo } from "react";
import { type Times, timesIn } from "../frame/times";
import { useZone } from "./viewer";

/** Times as the viewer's clock has them. */
export function useTimes(): Times {
  const zone = useZone();
  return useMemo(() => timesIn(zone), [zone]);
}
