import { getInstances } from "@/core/api/calls/services";
import { listInstances } from "@/store/registry/services";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getInstances, async ({ query: { from, to } }) => ({
  instances: await listInstances(database(), from, to, Date.now()),
}));
