import { nameOf } from "@/access/callers";
import { keepComparison } from "@/core/api/calls/comparisons";
import { keepComparison as keep } from "@/store/releases/comparisons";
import { compared } from "../comparison/compared";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const POST = serve(keepComparison, async ({ body, asking, caller }) => ({
  id: await keep(database(), await compared(body, asking), nameOf(caller)),
}));
