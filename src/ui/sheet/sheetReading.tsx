"use client";

import { type ReactNode, useCallback, useMemo, useState } from "react";
import type { Repair } from "@/core/sheet/repair";
import type { Sheet } from "@/core/sheet/sheet";
import { useCarried } from "../frame/navigation";
import { scratchAddress, useSheetAddress } from "./address";
import { useChosen } from "./useChosen";
import { type ChosenValue, ValueMenu } from "./valueMenu";

/** Makes a pick of an attribute, with a value of it to begin with, from a reading. */
export type MakePick = (attribute: string, preset: string, text: string) => void;

/**
 * What reading a sheet with an account comes to: what is picked, what its plates share, and what can be done with a value.
 *
 * @param onRepair puts a name right on all sheets; the same function each time. Missing where that is not offered
 */
export function useSheetReading(sheet: Sheet, onRepair?: (repair: Repair) => void) {
  const [address, change] = useSheetAddress();
  const carried = useCarried();
  const { chosen, unknown } = useChosen(sheet, address.picks, null);
  const [value, setValue] = useState<ChosenValue | null>(null);
  const { holds, against } = address;
  const scope = useMemo(
    () => ({
      picks: chosen,
      unknown,
      holds,
      against,
      link: null,
      onValue: (labels: ChosenValue["labels"], at: ChosenValue["at"], text: string) => setValue({ labels, at, text }),
      ...(onRepair ? { onRepair } : {}),
    }),
    [chosen, unknown, holds, against, onRepair],
  );
  const scratch = useCallback((text: string) => scratchAddress(text, carried, chosen), [carried, chosen]);
  const close = useCallback(() => setValue(null), []);
  /** What can be done with the value that somebody chose, while they have. */
  const menu = (makePick?: MakePick): ReactNode =>
    value && (
      <ValueMenu
        chosen={value}
        onHold={(hold) => change.hold(hold, true)}
        onPick={makePick && ((attribute, preset) => makePick(attribute, preset, value.text))}
        scratch={scratch(value.text)}
        onClose={close}
      />
    );
  return { address, change, chosen, scope, scratch, menu };
}
