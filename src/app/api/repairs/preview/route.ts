import { previewRepair } from "@/core/api/calls/sheets";
import { previewRepair as preview } from "@/store/sheets/repairs";
import { database } from "../../database";
import { serve } from "../../serve";
import { repairAnswer, seenBy } from "../../sheetOf";

export const dynamic = "force-dynamic";

export const POST = serve(previewRepair, async ({ body, caller }) =>
  repairAnswer(await preview(database(), body, seenBy(caller))),
);
