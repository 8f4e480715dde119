import { getSheetVersions } from "@/core/api/calls/sheets";
import { sheetVersions } from "@/store/sheets/sheets";
import { database } from "../../../database";
import { serve } from "../../../serve";
import { seenBy, sheetFor } from "../../../sheetOf";

export const dynamic = "force-dynamic";

export const GET = serve(getSheetVersions, async ({ params: { id }, caller }) => {
  await sheetFor(id, caller);
  return { versions: await sheetVersions(database(), id, seenBy(caller)) };
});
