import { getRecordSample } from "@/core/api/calls/pipeline";
import { readRecordSample } from "@/store/pipeline/samples";
import { database } from "../../database";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getRecordSample, async () => {
  const [traces, logs] = await Promise.all([
    readRecordSample(database(), "traces"),
    readRecordSample(database(), "logs"),
  ]);
  return { traces, logs };
});
