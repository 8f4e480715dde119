import { addBand, addPick, newPartId } from "@/core/sheet/edit";
import { needsIn } from "@/core/sheet/uses";
import type { Editing } from "./editing";
import { newPick } from "./pickEditor";

/** Changes that are begun from the page of a sheet. */

export function addEmptyBand({ change, sheet }: Editing): void {
  change("add a band", addBand({ id: newPartId(), title: "", folded: false, plates: [] }, sheet.bands.length));
}

/** Makes a pick of an attribute, with a value of it to begin with. @param text the reading in which the value stands */
export function makePick({ change, sheet }: Editing, attribute: string, preset: string, text: string): void {
  const metric = needsIn(text)[0]?.metric ?? "";
  change("make a pick", addPick(newPick(sheet.picks, attribute, metric, [preset])));
}
