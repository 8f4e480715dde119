"use client";

import { createContext, type ReactNode, useContext, useMemo, useState, useSyncExternalStore } from "react";

/** The moment that is pointed at, outside React: it changes with each move, and only crosshairs follow it. */
class Pointed {
  private moment: number | null = null;
  private readonly listeners = new Set<() => void>();

  get = (): number | null => this.moment;

  set = (moment: number | null): void => {
    if (moment === this.moment) return;
    this.moment = moment;
    for (const heard of this.listeners) heard();
  };

  subscribe = (heard: () => void): (() => void) => {
    this.listeners.add(heard);
    return () => this.listeners.delete(heard);
  };
}

/** What is pointed at, shared by all charts of a page: a moment for the crosshair, and a label value. */
interface Hover {
  pointed: Pointed;
  /** The labels of the series pointed at. */
  labels: Record<string, string | null> | null;
  setLabels: (labels: Record<string, string | null> | null) => void;
}

const Shared = createContext<Hover | null>(null);

export function HoverScope({ children }: { children: ReactNode }) {
  const [pointed] = useState(() => new Pointed());
  const [labels, setLabels] = useState<Record<string, string | null> | null>(null);
  const value = useMemo(() => ({ pointed, labels, setLabels }), [pointed, labels]);
  return <Shared.Provider value={value}>{children}</Shared.Provider>;
}

export function useHover(): Hover {
  const hover = useContext(Shared);
  if (!hover) throw new Error("a chart stands outside a HoverScope");
  return hover;
}

/** The moment that is pointed at. Who asks is drawn anew with each move. */
export function usePointedMoment(): number | null {
  const { pointed } = useHover();
  return useSyncExternalStore(pointed.subscribe, pointed.get, () => null);
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
