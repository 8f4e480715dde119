"use client";

import { usePathname, useSearchParams } from "next/navigation";
import { useCallback, useMemo } from "react";
import { addressName, type Chosen, picksInAddress } from "@/core/sheet/chosen";
import { type Hold, holdParameter, holdsIn } from "@/core/sheet/holds";
import { type Earlier, earlierIn } from "@/core/window/earlier";

/** What stands in the address of a sheet: which one, what is picked, what it is held to, and an earlier window beside it. */

export interface SheetAddress {
  sheet: string | null;
  /** By name; a pick that is not here was not chosen. */
  picks: Readonly<Record<string, readonly string[]>>;
  holds: readonly Hold[];
  /** The earlier window; null for none. */
  against: Earlier | null;
  /** Whether only the sheet is shown, for a wall. */
  wall: boolean;
}

/** @param values null: nobody chose */
export type ChangeAddress = {
  pick: (name: string, values: readonly string[] | null) => void;
  hold: (hold: Hold, on: boolean) => void;
  against: (value: string) => void;
  wall: (on: boolean) => void;
};

/** The address of a reading on Scratch, with what is picked. @param carried the query that goes from page to page */
export function scratchAddress(text: string, carried: string, chosen: Chosen): string {
  const parameters = new URLSearchParams(carried);
  parameters.set("reading", text);
  for (const [name, values] of Object.entries(chosen))
    for (const value of values) parameters.append(addressName(name), value);
  return `/scratch?${parameters}`;
}

export function useSheetAddress(): [SheetAddress, ChangeAddress] {
  const parameters = useSearchParams();
  const path = usePathname();
  const text = parameters.toString();
  const address = useMemo<SheetAddress>(() => {
    const read = new URLSearchParams(text);
    return {
      sheet: read.get("sheet"),
      picks: picksInAddress(read),
      holds: holdsIn(read),
      against: earlierIn(read.get("against")),
      wall: read.get("wall") === "yes",
    };
  }, [text]);
  const change = useCallback(
    (edit: (next: URLSearchParams) => void) => {
      const next = new URLSearchParams(window.location.search);
      edit(next);
      window.history.pushState(null, "", `${path}?${next}`);
    },
    [path],
  );
  const changes = useMemo<ChangeAddress>(
    () => ({
      pick: (name, values) =>
        change((next) => {
          next.delete(addressName(name));
          for (const value of values ?? []) next.append(addressName(name), value);
        }),
      hold: (hold, on) =>
        change((next) => {
          const [name, value] = holdParameter(hold);
          const others = next.getAll(name).filter((one) => one !== value);
          next.delete(name);
          for (const one of on ? [...others, value] : others) next.append(name, one);
        }),
      against: (value) => change((next) => (value === "" ? next.delete("against") : next.set("against", value))),
      wall: (on) => change((next) => (on ? next.set("wall", "yes") : next.delete("wall"))),
    }),
    [change],
  );
  return [address, changes];
}
