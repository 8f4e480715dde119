import { takeSheetBack } from "@/core/api/calls/sheets";
import { listSheets } from "@/store/sheets/list";
import { throwAway } from "@/store/sheets/sheets";
import { database } from "../../../database";
import { serve } from "../../../serve";
import { NO_SHEET, seenBy } from "../../../sheetOf";

export const dynamic = "force-dynamic";

export const POST = serve(takeSheetBack, async ({ params: { id }, caller }) => {
  const found = (await listSheets(database(), "")).find((one) => one.id === id);
  if (!found || !seenBy(caller)(found) || !(await throwAway(database(), id, null))) throw NO_SHEET;
  return {};
});
