import { getPlates } from "@/core/api/calls/sheets";
import { mayRead } from "@/core/sheet/readers";
import { plateReadingsOf } from "@/core/sheet/uses";
import { latestSheets } from "@/store/sheets/sheets";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getPlates, async ({ caller }) => {
  const all = await latestSheets(database());
  const seen = all.filter(({ body }) => mayRead(body, caller));
  return { plates: seen.flatMap(({ id, body }) => plateReadingsOf(id, body)), others: all.length - seen.length };
});
