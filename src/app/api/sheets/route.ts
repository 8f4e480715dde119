import { nameOf } from "@/access/callers";
import { createSheet, getSheets } from "@/core/api/calls/sheets";
import { listSheets } from "@/store/sheets/list";
import { createSheet as create, OutdatedSheet } from "@/store/sheets/sheets";
import { database } from "../database";
import { Refusal, serve } from "../serve";
import { seenBy } from "../sheetOf";

export const dynamic = "force-dynamic";

export const GET = serve(getSheets, async ({ caller }) => {
  const all = await listSheets(database(), caller.kind === "account" ? caller.id : "");
  return { sheets: all.filter(seenBy(caller)) };
});

export const POST = serve(createSheet, async ({ body: { sheet, note, id }, caller }) => {
  try {
    return { id: await create(database(), { body: sheet, note, id, who: nameOf(caller) }), version: 1 };
  } catch (error) {
    if (!(error instanceof OutdatedSheet)) throw error;
    throw new Refusal(409, { title: "The id is taken", detail: `there is, or was, another sheet called ${id}` });
  }
});
