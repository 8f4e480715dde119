"use client";

import { type Times, timesIn } from "../frame/times";
import { useZone } from "./viewer";

/** Times as the viewer's clock has them. */
export function useTimes(): Times {
  return timesIn(useZone());
}
