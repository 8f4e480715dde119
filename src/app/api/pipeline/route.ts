import { getPipeline, publish } from "@/core/api/calls/pipeline";
import { listExporterSecrets } from "@/store/exports/exporterSecrets";
import { exporterStates } from "@/store/exports/exports";
import { bufferedCounts } from "@/store/pipeline/bufferedPoints";
import { pendingTraceCounts } from "@/store/pipeline/pendingTraces";
import { listPipelines, livePipeline } from "@/store/pipeline/pipeline";
import { database } from "../database";
import { published } from "../published";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getPipeline, async () => {
  const [live, versions, waiting, undecided, exporters, secrets] = await Promise.all([
    livePipeline(database()),
    listPipelines(database()),
    bufferedCounts(database()),
    pendingTraceCounts(database()),
    exporterStates(database()),
    listExporterSecrets(database()),
  ]);
  return { live, versions, waiting: [...waiting, ...undecided], exporters, secrets };
});

export const POST = serve(publish, ({ body, caller }) => published(body, caller));
