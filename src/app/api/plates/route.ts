import { getPlates } from "@/core/api/calls/sheets";
import { plateReadingsOf } from "@/core/sheet/uses";
import { latestSheets } from "@/store/sheets/sheets";
import { database } from "../database";
import { serve } from "../serve";
import { seenBy } from "../sheetOf";

export const dynamic = "force-dynamic";

export const GET = serve(getPlates, async ({ caller }) => {
  const all = await latestSheets(database());
  const may = seenBy(caller);
  const seen = all.filter(({ body }) => may(body));
  return { plates: seen.flatMap(({ id, body }) => plateReadingsOf(id, body)), others: all.length - seen.length };
});
