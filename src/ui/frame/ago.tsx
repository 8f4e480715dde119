"use client";

import { useFromNow } from "../query/place";
import { ago } from "./times";

/** How long ago something was. It alone is drawn anew with the clock. */
export function Ago({ at }: { at: number | null }) {
  return useFromNow((now) => ago(at, now));
}
