import { getServiceMetrics } from "@/core/api/calls/services";
import { listServiceMetrics } from "@/store/registry/services";
import { database } from "../../database";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getServiceMetrics, async ({ query: { service, environment } }) => ({
  metrics: await listServiceMetrics(database(), service, environment),
}));
