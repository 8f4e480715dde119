"use client";

import { useSyncExternalStore } from "react";

/**
 * Whether single letters and figures are keys, kept in this browser: who speaks to the machine, or rests a hand on it, has
 * to be able to switch them off (WCAG 2.1.4).
 */

const KEY = "tin-single-keys";
const OFF = "off";
const listeners = new Set<() => void>();

/** Read at the moment of a key press; on where the browser keeps nothing. */
export function singleKeysOn(): boolean {
  try {
    return localStorage.getItem(KEY) !== OFF;
  } catch {
    return true;
  }
}

function switchKeys(on: boolean): void {
  try {
    if (on) localStorage.removeItem(KEY);
    else localStorage.setItem(KEY, OFF);
  } catch {
    // A browser that keeps nothing keeps them on.
  }
  for (const tell of listeners) tell();
}

function subscribe(tell: () => void): () => void {
  listeners.add(tell);
  window.addEventListener("storage", tell);
  return () => {
    listeners.delete(tell);
    window.removeEventListener("storage", tell);
  };
}

export function useSingleKeys(): [boolean, (on: boolean) => void] {
  return [useSyncExternalStore(subscribe, singleKeysOn, () => true), switchKeys];
}
