import { getEmptyPlates } from "@/core/api/calls/sheets";
import { mayRead } from "@/core/sheet/readers";
import { emptyPlates } from "@/store/sheets/repairs";
import { database } from "../../database";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getEmptyPlates, async ({ caller }) => ({
  plates: (await emptyPlates(database()))
    .filter((plate) => mayRead(plate, caller))
    .map(({ readers: _, ...plate }) => plate),
}));
