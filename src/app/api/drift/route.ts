import { getDrift } from "@/core/api/calls/releases";
import { findDrift } from "@/store/releases/drift";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getDrift, async ({ query: { service, environment } }) => {
  const found = await findDrift(database(), service, environment);
  return { at: found?.at ?? null, drift: found?.content ?? null };
});
