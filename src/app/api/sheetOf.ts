import type { Caller } from "@/core/access/rights";
import type { RepairAnswer } from "@/core/api/sheets";
import { mayRead } from "@/core/sheet/readers";
import type { Repaired } from "@/store/sheets/repairs";
import { findSheet, type OutdatedSheet, type SavedSheet } from "@/store/sheets/sheets";
import { database } from "./database";
import { Refusal } from "./serve";

/** What calls about one sheet have in common. */

export const NO_SHEET = new Refusal(404, {
  title: "No such sheet",
  detail: "there is no sheet of this name, or it was thrown away",
});

const FOR_OTHERS = new Refusal(403, {
  title: "Not for you",
  detail: "this sheet is limited to some readers; an owner, or one of them who may edit, can add you",
});

/** A sheet that the caller may see. @throws Refusal 403, 404 */
export async function sheetFor(id: string, caller: Caller): Promise<SavedSheet> {
  const found = await findSheet(database(), id);
  if (!found) throw NO_SHEET;
  if (!mayRead(found.body, caller)) throw FOR_OTHERS;
  return found;
}

/** What is said where somebody else saved meanwhile. */
export function outdated(error: OutdatedSheet): Refusal {
  if (!error.latest) return NO_SHEET;
  return new Refusal(409, {
    title: "Somebody else saved it meanwhile",
    detail: error.message,
    hint: "look at both, and take what is to stay",
  });
}

/** What a repair changes, as a caller may see it: of sheets for others only how many there are. */
export function seenBy(caller: Caller, { sheets, contracts }: Repaired): RepairAnswer {
  const seen = sheets.filter((one) => mayRead(one, caller));
  return {
    sheets: seen.map(({ id, name, changes }) => ({ id, name, changes })),
    others: sheets.length - seen.length,
    contracts: contracts.map(({ name, becomes, stays }) => ({ name, becomes, stays })),
  };
}
