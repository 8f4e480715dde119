import { getHome } from "@/core/api/calls/releases";
import { worstFirst } from "@/core/release/worst";
import { homeEntries } from "@/store/releases/outlooks";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getHome, async () => {
  const at = Date.now();
  const { entries, all } = await homeEntries(database(), at);
  return { at, services: worstFirst(entries), all };
});
