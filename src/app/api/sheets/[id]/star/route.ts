import { starSheet } from "@/core/api/calls/sheets";
import { star } from "@/store/sheets/list";
import { database } from "../../../database";
import { serve } from "../../../serve";
import { sheetFor } from "../../../sheetOf";
import { accountOf } from "../../../signing";

export const dynamic = "force-dynamic";

export const PUT = serve(starSheet, async ({ params: { id }, body: { starred }, caller }) => {
  await sheetFor(id, caller);
  await star(database(), id, accountOf(caller).id, starred);
  return {};
});
