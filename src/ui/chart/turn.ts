"use client";

import { type RefObject, useLayoutEffect, useState } from "react";
import { whenIdle } from "../frame/idle";

/** Pieces this near to the screen count as on it, px. */
const NEAR = 200;
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
function inTurn(draw: () => void): () => void {
  waiting.add(draw);
  if (!going) {
    going = true;
    whenIdle(goOn, PATIENCE);
  }
  return () => {
    waiting.delete(draw);
  };
}

/** Whether pieces still wait for their turn: what is for later waits for them. */
export function someWait(): boolean {
  return waiting.size > 0;
}

/**
 * When a piece that takes long to draw may be: at once where it is near the screen, else when its turn comes. Asking where it
 * lies lays out the page, which comes next in any case: of many that appear together, once for all.
 *
 * @returns how wide it is then, px; null until then
 */
export function useTurn(piece: RefObject<Element | null>): number | null {
  const [width, setWidth] = useState<number | null>(null);
  useLayoutEffect(() => {
    if (width !== null || !piece.current) return;
    const element = piece.current;
    const { top, bottom, width: own } = element.getBoundingClientRect();
    if (bottom > -NEAR && top < window.innerHeight + NEAR) return setWidth(own);
    const draw = () => setWidth(element.getBoundingClientRect().width);
    let giveBack = inTurn(draw);
    const observer = new IntersectionObserver(
      (entries) => {
        if (!entries.some(({ isIntersecting }) => isIntersecting)) return;
        giveBack();
        giveBack = () => {};
        draw();
      },
      { rootMargin: `${NEAR}px` },
    );
    observer.observe(element);
    return () => {
      observer.disconnect();
      giveBack();
    };
  }, [width, piece]);
  return width;
}
