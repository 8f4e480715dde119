import { noteSheetOpened } from "@/core/api/calls/sheets";
import { noteOpened } from "@/store/sheets/list";
import { database } from "../../../database";
import { serve } from "../../../serve";
import { sheetFor } from "../../../sheetOf";
import { accountOf } from "../../../signing";

export const dynamic = "force-dynamic";

export const POST = serve(noteSheetOpened, async ({ params: { id }, caller }) => {
  await sheetFor(id, caller);
  await noteOpened(database(), id, accountOf(caller).id);
  return {};
});
