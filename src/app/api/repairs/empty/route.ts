import { getEmptyPlates } from "@/core/api/calls/sheets";
import { emptyPlates } from "@/store/sheets/repairs";
import { database } from "../../database";
import { serve } from "../../serve";
import { seenBy } from "../../sheetOf";

export const dynamic = "force-dynamic";

export const GET = serve(getEmptyPlates, async ({ caller }) => ({
  plates: (await emptyPlates(database())).filter(seenBy(caller)).map(({ readers: _, ...plate }) => plate),
}));
