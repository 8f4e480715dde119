"use client";

import { useMemo } from "react";
import { ALL, type Chosen, chosenWords } from "@/core/sheet/chosen";
import type { Pick } from "@/core/sheet/pick";
import { chosenBefore } from "@/core/sheet/pickText";
import { usePickValues } from "../query/sheets";
import { Slot } from "../sentence/slot";
import type { SlotOption } from "../sentence/slotOptions";
import { useScope } from "./scope";

/** A pick in the sentence at the head: what is chosen, and the others to choose from. */
export function PickSlot({
  pick,
  picks,
  chosen,
  onChoose,
}: {
  pick: Pick;
  /** All of the sheet. */
  picks: readonly Pick[];
  chosen: Chosen;
  /** null: as it is preset. */
  onChoose: (values: readonly string[] | null) => void;
}) {
  const { data, error } = usePickValues(pick, chosenBefore(picks, pick, chosen), useScope().link);
  const values = chosen[pick.name];
  const options = useMemo<SlotOption[]>(() => {
    const known = data?.values ?? [];
    const lost = (values ?? []).filter((value) => !known.some((one) => one.value === value));
    const marked = (value: string) => ((values ?? []).includes(value) ? "✓ " : "");
    return [
      ...(pick.all ? [{ value: ALL, label: (values ?? []).length === 0 ? "✓ any" : "any" }] : []),
      ...lost.map((value) => ({ value, label: `✓ ${value}`, note: data ? "not there now" : "" })),
      ...known.map(({ value, series }) => ({
        value,
        label: marked(value) + value,
        ...(series > 0 ? { note: `${series} series` } : {}),
      })),
    ];
  }, [data, values, pick.all]);
  const choose = (value: string) => {
    if (value === ALL) return onChoose([ALL]);
    if (!pick.many) return onChoose([value]);
    const now = values ?? [];
    const next = now.includes(value) ? now.filter((one) => one !== value) : [...now, value];
    onChoose(next.length === 0 ? (pick.all ? [ALL] : null) : next);
  };
  return (
    <Slot
      name={pick.words}
      options={options}
      onChoose={choose}
      keepOpen={pick.many}
      {...(pick.source.of === "text" || error
        ? { accept: (text: string) => (text === "" ? "write a value" : null) }
        : {})}
      placeholder={pick.many ? `several of ${pick.words}…` : `which ${pick.words}…`}
    >
      {values === undefined ? "…" : chosenWords(values)}
    </Slot>
  );
}
