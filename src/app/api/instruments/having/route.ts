import { findByValue } from "@/core/api/calls/instruments";
import { metricsWithValue } from "@/store/registry/knownValues";
import { database } from "../../database";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const GET = serve(findByValue, async ({ query: { value } }) => ({
  found: await metricsWithValue(database(), value),
}));
