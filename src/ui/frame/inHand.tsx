"use client";

import { createContext, type ReactNode, useContext, useMemo, useState } from "react";

/** The reading in hand: what the key k keeps on a sheet. The page says it, or the plate that is pointed at. */
export interface InHand {
  text: string;
  title: string;
}

interface Hand {
  held: { current: InHand | null };
  /** What is being kept: its dialog is open. */
  keeping: InHand | null;
  keep: (what: InHand | null) => void;
}

const Shared = createContext<Hand | null>(null);

export function HandScope({ children }: { children: ReactNode }) {
  const [held] = useState<{ current: InHand | null }>({ current: null });
  const [keeping, keep] = useState<InHand | null>(null);
  const hand = useMemo(() => ({ held, keeping, keep }), [held, keeping]);
  return <Shared value={hand}>{children}</Shared>;
}

export function useHand(): Hand {
  const hand = useContext(Shared);
  if (!hand) throw new Error("nothing holds a reading here");
  return hand;
}
