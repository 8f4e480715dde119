import { nameOf } from "@/access/callers";
import { applyRepair, getReplacements } from "@/core/api/calls/sheets";
import { applyRepair as apply, replacementsFor } from "@/store/sheets/repairs";
import { database } from "../database";
import { serve } from "../serve";
import { seenBy } from "../sheetOf";

export const dynamic = "force-dynamic";

export const GET = serve(getReplacements, async ({ query: { metric } }) => ({
  replacements: await replacementsFor(database(), metric),
}));

export const POST = serve(applyRepair, async ({ body, caller }) =>
  seenBy(caller, await apply(database(), body, nameOf(caller))),
);
