"use client";

import { createContext, type ReactNode, useContext, useMemo, useState } from "react";

/** What is pointed at, shared by all charts of a page: a moment for the crosshair, and a label value. */
interface Hover {
  time: number | null;
  setTime: (time: number | null) => void;
  /** The labels of the series pointed at. */
  labels: Record<string, string | null> | null;
  setLabels: (labels: Record<string, string | null> | null) => void;
}

const Shared = createContext<Hover | null>(null);

export function HoverScope({ children }: { children: ReactNode }) {
  const [time, setTime] = useState<number | null>(null);
  const [labels, setLabels] = useState<Record<string, string | null> | null>(null);
  const value = useMemo(() => ({ time, setTime, labels, setLabels }), [time, labels]);
  return <Shared.Provider value={value}>{children}</Shared.Provider>;
}

export function useHover(): Hover {
  const hover = useContext(Shared);
  if (!hover) throw new Error("a chart stands outside a HoverScope");
  return hover;
}

/** Whether a series steps back because another one, with other values, is pointed at. */
export function isDimmed(
  labels: Record<string, string | null>,
  pointed: Record<string, string | null> | null,
): boolean {
  if (!pointed) return false;
  const shared = Object.keys(pointed).filter((key) => key in labels);
  return shared.length > 0 && shared.some((key) => labels[key] !== pointed[key]);
}
