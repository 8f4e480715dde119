"use client";

import { useEffect, useMemo, useRef, useState } from "react";
import { type Chosen, chosenOf } from "@/core/sheet/pick";
import { pickOrder } from "@/core/sheet/pickText";
import type { Sheet } from "@/core/sheet/sheet";
import { usePickValues } from "../query/sheets";
import { picksFor } from "./pickSlot";

/** What is chosen of each pick, also of those that have to be something and take the first that there is. */
export function useChosen(sheet: Sheet, inAddress: Chosen, link: string | null) {
  const { order } = useMemo(() => pickOrder(sheet.picks), [sheet.picks]);
  const firsts = useRef<Record<string, string>>({});
  const { chosen, unknown } = chosenOf(sheet.picks, inAddress, (name) => firsts.current[name]);
  // The first of them, in the order in which they can be filled: the others follow from it.
  const waiting = order.find((name) => unknown.includes(name));
  const pick = sheet.picks.find(({ name }) => name === waiting) ?? null;
  const { data } = usePickValues(pick, pick ? picksFor(pick, chosen) : {}, link);
  const [, drawAgain] = useState(0);
  useEffect(() => {
    const first = data?.values[0]?.value;
    if (pick && first !== undefined && firsts.current[pick.name] !== first) {
      firsts.current[pick.name] = first;
      drawAgain((count) => count + 1);
    }
  }, [data, pick]);
  const key = JSON.stringify([chosen, unknown]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the same as long as it says the same
  return useMemo<{ chosen: Chosen; unknown: string[] }>(() => ({ chosen, unknown }), [key]);
}
