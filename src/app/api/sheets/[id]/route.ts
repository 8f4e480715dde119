import { nameOf } from "@/access/callers";
import { getSheet, saveSheet, throwSheetAway } from "@/core/api/calls/sheets";
import { isStarred } from "@/store/sheets/list";
import { findVersion, OutdatedSheet, saveSheet as save, throwAway } from "@/store/sheets/sheets";
import { database } from "../../database";
import { Refusal, serve } from "../../serve";
import { NO_SHEET, outdated, seenBy, sheetFor } from "../../sheetOf";

export const dynamic = "force-dynamic";

export const GET = serve(getSheet, async ({ params: { id }, query: { version }, caller }) => {
  const latest = await sheetFor(id, caller);
  const asked = version === undefined ? latest : await findVersion(database(), id, version, seenBy(caller));
  if (!asked) throw new Refusal(404, { title: "No such version", detail: `the sheet has no version ${version}` });
  const { body, ...rest } = asked;
  const starred = caller.kind === "account" && (await isStarred(database(), id, caller.id));
  return { ...rest, sheet: body, starred };
});

export const PUT = serve(saveSheet, async ({ params: { id }, body: { sheet, note, based }, caller }) => {
  const before = await sheetFor(id, caller);
  try {
    const version = await save(database(), id, { body: sheet, note, based, who: nameOf(caller), may: seenBy(caller) });
    return { version: version ?? before.version };
  } catch (error) {
    if (error instanceof OutdatedSheet) throw outdated(error);
    throw error;
  }
});

export const DELETE = serve(throwSheetAway, async ({ params: { id }, caller }) => {
  await sheetFor(id, caller);
  if (!(await throwAway(database(), id, nameOf(caller)))) throw NO_SHEET;
  return {};
});
