"use client";

import { createContext, type ReactNode, useContext, useState, useSyncExternalStore } from "react";

/** Something that changes with each move of the pointer, outside React: only those follow it who ask. */
class Followed<T> {
  private now: T | null = null;
  private readonly listeners = new Set<() => void>();

  get = (): T | null => this.now;

  set = (next: T | null): void => {
    if (next === this.now) return;
    this.now = next;
    for (const heard of this.listeners) heard();
  };

  subscribe = (heard: () => void): (() => void) => {
    this.listeners.add(heard);
    return () => this.listeners.delete(heard);
  };
}

export type Labels = Readonly<Record<string, string | null>>;

/** What is pointed at, shared by all charts of a page: a moment for the crosshair, and the labels of a series. */
interface Hover {
  moment: Followed<number>;
  labels: Followed<Labels>;
}

const Shared = createContext<Hover | null>(null);

export function HoverScope({ children }: { children: ReactNode }) {
  const [hover] = useState<Hover>(() => ({ moment: new Followed(), labels: new Followed() }));
  return <Shared.Provider value={hover}>{children}</Shared.Provider>;
}

/** Who asks is not drawn anew by what is pointed at. */
export function useHover(): Hover {
  const hover = useContext(Shared);
  if (!hover) throw new Error("a chart stands outside a HoverScope");
  return hover;
}

/** The moment that is pointed at. Who asks is drawn anew with each move. */
export function usePointedMoment(): number | null {
  const { moment } = useHover();
  return useSyncExternalStore(moment.subscribe, moment.get, () => null);
}

/** The labels of the series that is pointed at. Who asks is drawn anew with each. */
export function usePointedLabels(): Labels | null {
  const { labels } = useHover();
  return useSyncExternalStore(labels.subscribe, labels.get, () => null);
}

/** Whether a series steps back because another one, with other values, is pointed at. */
export function isDimmed(labels: Labels, pointed: Labels | null): boolean {
  if (!pointed) return false;
  const shared = Object.keys(pointed).filter((key) => key in labels);
  return shared.length > 0 && shared.some((key) => labels[key] !== pointed[key]);
}
