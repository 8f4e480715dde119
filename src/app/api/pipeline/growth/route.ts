import { getGrowth } from "@/core/api/calls/pipeline";
import { seriesGrowth } from "@/store/registry/growth";
import { database } from "../../database";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getGrowth, async ({ query: { back }, fresh }) => {
  const now = Date.now();
  const since = now - back;
  return { since, metrics: await seriesGrowth(database(), now, since, fresh) };
});
