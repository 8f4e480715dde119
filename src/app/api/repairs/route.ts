import { nameOf } from "@/access/callers";
import { applyRepair, getReplacements } from "@/core/api/calls/sheets";
import { attributeReplacements } from "@/store/sheets/attributeReplacements";
import { applyRepair as apply, replacementsFor } from "@/store/sheets/repairs";
import { database } from "../database";
import { serve } from "../serve";
import { repairAnswer, seenBy } from "../sheetOf";

export const dynamic = "force-dynamic";

export const GET = serve(getReplacements, async ({ query: { metric, attribute } }) => ({
  replacements:
    attribute === ""
      ? await replacementsFor(database(), metric)
      : await attributeReplacements(database(), metric, attribute),
}));

export const POST = serve(applyRepair, async ({ body, caller }) =>
  repairAnswer(await apply(database(), body, nameOf(caller), seenBy(caller))),
);
