"use client";

import { useEffect, useMemo, useRef, useState } from "react";
import { type Chosen, chosenOf } from "@/core/sheet/chosen";
import type { Pick } from "@/core/sheet/pick";
import { chosenBefore, picksFor, picksInOrder } from "@/core/sheet/pickText";
import type { Sheet } from "@/core/sheet/sheet";
import { usePickValues } from "../query/sheets";

/** What the first value of a pick depends on: where its values come from, and what is chosen of the picks that it names. */
function questionOf(pick: Pick, chosen: Chosen): string {
  return JSON.stringify([pick.name, pick.source, picksFor(pick, chosen)]);
}

/** What is chosen of each pick, also of those that have to be something and take the first that there is. */
export function useChosen(sheet: Sheet, inAddress: Chosen, link: string | null) {
  const picks = useMemo(() => picksInOrder(sheet.picks), [sheet.picks]);
  const firsts = useRef(new Map<string, string>());
  const { chosen, unknown } = chosenOf(picks, inAddress, (name, before) =>
    firsts.current.get(questionOf(picks.find((pick) => pick.name === name)!, before)),
  );
  // One after the other, in the order in which they can be filled: the others follow from it.
  const pick = picks.find(({ name }) => unknown.includes(name)) ?? null;
  const question = pick && questionOf(pick, chosen);
  const { data } = usePickValues(pick, pick ? chosenBefore(picks, pick, chosen) : {}, link);
  const [, drawAgain] = useState(0);
  const first = data?.values[0]?.value;
  useEffect(() => {
    if (question === null || first === undefined || firsts.current.get(question) === first) return;
    firsts.current.set(question, first);
    drawAgain((count) => count + 1);
  }, [question, first]);
  const key = JSON.stringify([chosen, unknown]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the same as long as it says the same
  return useMemo<{ chosen: Chosen; unknown: string[] }>(() => ({ chosen, unknown }), [key]);
}
