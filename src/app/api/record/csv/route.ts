import { stringify } from "csv-stringify/sync";
import { getRecordTable } from "@/core/api/calls/people";
import type { RecordLine } from "@/core/api/record";
import { readRecord } from "@/store/access/record";
import { database } from "../../database";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

const PART = 1000;
const HEADS = ["when", "who", "did", "about", "address"];

function rowsOf(lines: readonly RecordLine[]): string {
  const rows = lines.map(({ at, who, did, about, address }) => [new Date(at).toISOString(), who, did, about, address]);
  // A cell that begins like a formula is none.
  return stringify(rows, { escape_formulas: true });
}

export const GET = serve(getRecordTable, ({ query: { find } }) => {
  const encoder = new TextEncoder();
  let before: number | null = null;
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      controller.enqueue(encoder.encode(stringify([HEADS])));
    },
    async pull(controller) {
      const lines: RecordLine[] = await readRecord(database(), { find, before, rows: PART });
      if (lines.length > 0) controller.enqueue(encoder.encode(rowsOf(lines)));
      if (lines.length < PART) controller.close();
      else before = lines[lines.length - 1].id;
    },
  });
  const named = {
    "Content-Type": "text/csv; charset=utf-8",
    "Content-Disposition": 'attachment; filename="record.csv"',
  };
  return new Response(body, { headers: named });
});
