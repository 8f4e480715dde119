"use client";

import { useNow } from "../query/place";
import { ago } from "./times";

/** How long ago something was. It alone is drawn anew with the clock. */
export function Ago({ at }: { at: number | null }) {
  return ago(at, useNow());
}
