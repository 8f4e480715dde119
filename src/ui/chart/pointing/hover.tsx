"use client";

import {
  createContext,
  type ReactNode,
  type RefObject,
  useContext,
  useEffect,
  useState,
  useSyncExternalStore,
} from "react";
import { Followed, Paced } from "./followed";

export type Labels = Readonly<Record<string, string | null>>;

/** What is pointed at, shared by all charts of a page: a moment for the crosshair, and the labels of a series. */
interface Hover {
  moment: Followed<number>;
  /** The same at a pace that many charts can follow. */
  pacedMoment: Followed<number>;
  labels: Followed<Labels>;
}

const Shared = createContext<Hover | null>(null);

export function HoverScope({ children }: { children: ReactNode }) {
  const [hover] = useState<Hover>(() => {
    const moment = new Followed<number>();
    return { moment, pacedMoment: new Paced(moment), labels: new Followed() };
  });
  return <Shared.Provider value={hover}>{children}</Shared.Provider>;
}

/** Who asks is not drawn anew by what is pointed at. */
export function useHover(): Hover {
  const hover = useContext(Shared);
  if (!hover) throw new Error("a chart stands outside a HoverScope");
  return hover;
}

/** Whether a moment is pointed at. Who asks is drawn anew when that begins and ends. */
export function useIsPointing(): boolean {
  const { moment } = useHover();
  return useSyncExternalStore(
    moment.subscribe,
    () => moment.get() !== null,
    () => false,
  );
}

/** Whether it is this piece that is pointed at, or gone along by keys. */
export const isInHand = (piece: Element | null) => piece?.matches(":hover, :focus") === true;

/**
 * The step in hand: the first of some whose end is not before the moment that is pointed at, by its place; -1 where there
 * is none. What is pointed at itself follows at once, all else at a pace.
 *
 * @param times ends of steps, Unix ms, rising
 */
export function usePointedStep(times: readonly number[], frame: RefObject<Element | null>): number {
  const { moment, pacedMoment } = useHover();
  const [step, setStep] = useState(-1);
  useEffect(() => {
    const tell = (at: number | null) => setStep(at === null ? -1 : times.findIndex((end) => end >= at));
    const follow = () => {
      const at = moment.get();
      if (at === null || isInHand(frame.current)) tell(at);
    };
    // Where many charts begin to follow at once, those that are not in hand do so at the pace.
    tell((isInHand(frame.current) ? moment : pacedMoment).get());
    const ends = [moment.subscribe(follow), pacedMoment.subscribe(() => tell(pacedMoment.get()))];
    return () => {
      for (const end of ends) end();
    };
  }, [moment, pacedMoment, times, frame]);
  return step;
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
