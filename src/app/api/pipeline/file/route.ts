import { comparePipelineFile, getPipelineFile, PIPELINE_FILE } from "@/core/api/calls/pipeline";
import { differingLines } from "@/core/draft/lines";
import { listPipelines, livePipeline } from "@/store/pipeline/pipeline";
import { database } from "../../database";
import { Refusal, serve } from "../../serve";
import { fileResponse, uploadedFile } from "../../uploadedFile";

export const dynamic = "force-dynamic";

export const GET = serve(getPipelineFile, async ({ query: { format, version } }) => {
  const wanted =
    version === undefined
      ? await livePipeline(database())
      : (await listPipelines(database())).find(({ id }) => id === version);
  if (!wanted) throw new Refusal(404, { title: "No such version", detail: `there is no version ${version}` });
  return fileResponse(wanted.config, format, `pipeline-${wanted.id}`);
});

export const POST = serve(comparePipelineFile, async ({ body }) => {
  const config = await uploadedFile(body, PIPELINE_FILE);
  const live = await livePipeline(database());
  return { config, live: live.id, differences: differingLines(live.config, config) };
});
