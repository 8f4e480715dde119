import type { Caller } from "@/core/access/rights";
import type { RepairAnswer } from "@/core/api/sheets";
import { mayRead } from "@/core/sheet/readers";
import type { Repaired } from "@/store/sheets/repairs";
import { findSheet, type MaySee, type OutdatedSheet, type SavedSheet } from "@/store/sheets/sheets";
import { database } from "./database";
import { Refusal } from "./serve";

/** What calls about one sheet have in common. */

/** Which sheets there are is nobody's business who may not see them: one that is limited answers as one that is not there. */
export const NO_SHEET = new Refusal(404, {
  title: "No such sheet",
  detail: "there is no sheet of this name for you: it may have been deleted, or limited to other readers",
});

/** Whether a caller may see a sheet: every call about sheets asks this. */
export function seenBy(caller: Caller): MaySee {
  return (sheet) => mayRead(sheet, caller);
}

/** A sheet that the caller may see. @throws Refusal 404 */
export async function sheetFor(id: string, caller: Caller): Promise<SavedSheet> {
  const found = await findSheet(database(), id);
  if (!found || !mayRead(found.body, caller)) throw NO_SHEET;
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

/** What a repair changes, in the form of its calls. */
export function repairAnswer({ sheets, contracts, others }: Repaired & { others: number }): RepairAnswer {
  return {
    sheets: sheets.map(({ id, name, changes }) => ({ id, name, changes })),
    others,
    contracts: contracts.map(({ name, becomes, stays }) => ({ name, becomes, stays })),
  };
}
