import { dropSheetDraft, getSheetDraft, keepSheetDraft } from "@/core/api/calls/sheets";
import { dropDraft, findDraft, keepDraft } from "@/store/sheets/drafts";
import { database } from "../../../database";
import { Refusal, serve } from "../../../serve";
import { sheetFor } from "../../../sheetOf";
import { accountOf } from "../../../signing";

export const dynamic = "force-dynamic";

export const GET = serve(getSheetDraft, async ({ params: { id }, caller }) => {
  await sheetFor(id, caller);
  return { draft: await findDraft(database(), id, accountOf(caller).id) };
});

export const PUT = serve(keepSheetDraft, async ({ params: { id }, body, caller }) => {
  await sheetFor(id, caller);
  const at = await keepDraft(database(), id, accountOf(caller).id, body);
  if (at !== null) return { at };
  throw new Refusal(409, {
    title: "You went on elsewhere",
    detail: "your draft was changed in another tab or browser meanwhile",
    hint: "load the page anew to go on from there",
  });
});

export const DELETE = serve(dropSheetDraft, async ({ params: { id }, caller }) => {
  await sheetFor(id, caller);
  await dropDraft(database(), id, accountOf(caller).id);
  return {};
});
