"use client";

import { usePathname, useSearchParams } from "next/navigation";
import { useCallback, useMemo } from "react";
import { type Hold, holdParameter, holdsIn } from "@/core/sheet/holds";
import { addressName } from "@/core/sheet/pick";
import { DURATIONS } from "@/core/window/lengths";
import { picksIn } from "../query/picks";

/** What stands in the address of a sheet: which one, what is picked, what it is held to, and an earlier window beside it. */

/** Earlier windows that can be laid under this one, with their words. */
export const AGAINST: readonly { value: string; label: string }[] = [
  { value: "1h", label: "an hour before" },
  { value: "1d", label: "a day before" },
  { value: "1w", label: "a week before" },
  { value: "4w", label: "four weeks before" },
];

export interface SheetAddress {
  sheet: string | null;
  /** By name; a pick that is not here was not chosen. */
  picks: Readonly<Record<string, readonly string[]>>;
  holds: readonly Hold[];
  /** How far back the earlier window lies, ms, and how it is called; null for none. */
  against: { value: string; back: number; words: string } | null;
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

/** An earlier window by how it is written; null for none. */
export function againstIn(value: string | null): SheetAddress["against"] {
  const found = AGAINST.find((one) => one.value === value);
  if (!found) return null;
  const back = Number(found.value.slice(0, -1)) * DURATIONS[found.value.slice(-1)];
  return { value: found.value, back, words: found.label };
}

export function useSheetAddress(): [SheetAddress, ChangeAddress] {
  const parameters = useSearchParams();
  const path = usePathname();
  const text = parameters.toString();
  const address = useMemo<SheetAddress>(() => {
    const read = new URLSearchParams(text);
    return {
      sheet: read.get("sheet"),
      picks: picksIn(read),
      holds: holdsIn(read),
      against: againstIn(read.get("against")),
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
