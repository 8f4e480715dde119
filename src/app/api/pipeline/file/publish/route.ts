import { PIPELINE_FILE, publishPipelineFile } from "@/core/api/calls/pipeline";
import { published } from "../../../published";
import { serve } from "../../../serve";
import { uploadedFile } from "../../../uploadedFile";

export const dynamic = "force-dynamic";

export const POST = serve(publishPipelineFile, async ({ query, body, caller }) =>
  published({ ...query, config: await uploadedFile(body, PIPELINE_FILE) }, caller),
);
