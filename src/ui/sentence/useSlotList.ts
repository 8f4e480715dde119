"use client";

import { useEffect, useState } from "react";
import { whenIdle } from "../frame/idle";

type List = typeof import("./slotList").SlotList;

/** Longest that the code of lists waits for an idle moment, ms: a page is read before it is changed. */
const PATIENCE = 3000;

/** One for all slots, once it is there. */
let loaded: List | null = null;
let loading: Promise<List> | null = null;

function load(): Promise<List> {
  loading ??= import("./slotList").then(
    ({ SlotList }) => {
      loaded = SlotList;
      return SlotList;
    },
    (error) => {
      loading = null;
      throw error;
    },
  );
  return loading;
}

/**
 * The lists of slots, whose code comes after the page's own: in an idle moment, or with the first slot that is opened. No
 * slot is drawn anew because it came.
 *
 * @returns null until it is there, "unavailable" where it cannot be had; it is asked for again with the next slot opened
 */
export function useSlotList(open: boolean): List | "unavailable" | null {
  const [asked, setAsked] = useState<"loaded" | "unavailable" | null>(null);
  useEffect(() => {
    if (loaded !== null) return;
    if (!open) return whenIdle(() => load().catch(() => {}), PATIENCE);
    let gone = false;
    load().then(
      () => !gone && setAsked("loaded"),
      () => !gone && setAsked("unavailable"),
    );
    return () => {
      gone = true;
    };
  }, [open]);
  return loaded ?? (asked === "unavailable" ? asked : null);
}
