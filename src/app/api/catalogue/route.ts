import { getMetrics } from "@/core/api/calls/instruments";
import { listMetrics } from "@/store/registry/catalogue";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getMetrics, async () => ({ metrics: await listMetrics(database()) }));
