import { getRecord } from "@/core/api/calls/people";
import { readRecord } from "@/store/access/record";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getRecord, async ({ query: { find, before, rows } }) => {
  const lines = await readRecord(database(), { find, before: before ?? null, rows: rows + 1 });
  return { lines: lines.slice(0, rows), more: lines.length > rows };
});
