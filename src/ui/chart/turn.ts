"use client";

import { type RefObject, useEffect, useState } from "react";
import { whenIdle } from "../frame/idle";

/** Pieces this near to the screen count as on it. */
const NEAR = "200px";
/** A browser that is never idle lets one piece come all the same, after so long, ms. */
const PATIENCE = 400;

/** What draws pieces that nobody sees yet, one at a time while the browser has nothing else to do. */
const waiting = new Set<() => void>();
let going = false;

function goOn(): void {
  const [draw] = waiting;
  going = draw !== undefined;
  if (!draw) return;
  waiting.delete(draw);
  draw();
  whenIdle(goOn, PATIENCE);
}

/** Draws something when its turn comes. @returns gives the turn back */
export function inTurn(draw: () => void): () => void {
  waiting.add(draw);
  if (!going) {
    going = true;
    whenIdle(goOn, PATIENCE);
  }
  return () => waiting.delete(draw);
}

/** Whether pieces still wait for their turn: what is for later waits for them. */
export function someWait(): boolean {
  return waiting.size > 0;
}

/** Whether a piece that takes long to draw may be: at once where it is near the screen, else when its turn comes. */
export function useTurn(piece: RefObject<Element | null>): boolean {
  const [ready, setReady] = useState(false);
  useEffect(() => {
    if (ready || !piece.current) return;
    const draw = () => setReady(true);
    let giveBack = () => {};
    const observer = new IntersectionObserver(
      (entries) => {
        if (entries.some(({ isIntersecting }) => isIntersecting)) draw();
        else giveBack = inTurn(draw);
      },
      { rootMargin: NEAR },
    );
    observer.observe(piece.current);
    return () => {
      observer.disconnect();
      giveBack();
    };
  }, [ready, piece]);
  return ready;
}
