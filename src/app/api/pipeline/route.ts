import { type PipelineAnswer, publishing } from "@/core/api/pipeline";
import { listExporterSecrets } from "@/store/exporterSecrets";
import { exporterStates } from "@/store/exports";
import { listPipelines, livePipeline, OutdatedDraft, publishPipeline } from "@/store/pipeline";
import { undecidedCounts } from "@/store/undecided";
import { waitingCounts } from "@/store/waiting";
import { answering, badRequest, jsonBody, problem } from "../answer";
import { database } from "../database";

export const dynamic = "force-dynamic";

/** GET /api/pipeline: what is live, every version, and what waits. */
export function GET(): Promise<Response> {
  return answering(async () => {
    const [live, versions, waiting, undecided, exporters, secrets] = await Promise.all([
      livePipeline(database()),
      listPipelines(database()),
      waitingCounts(database()),
      undecidedCounts(database()),
      exporterStates(database()),
      listExporterSecrets(database()),
    ]);
    const answer: PipelineAnswer = {
      live,
      versions,
      waiting: [...waiting, ...undecided],
      exporters,
      secrets,
    };
    return Response.json(answer);
  });
}

/** POST /api/pipeline: publishes a draft; receivers take it over between two batches. */
export function POST(request: Request): Promise<Response> {
  return answering(async () => {
    const asked = publishing.safeParse(await jsonBody(request));
    if (!asked.success) return badRequest(asked.error);
    try {
      return Response.json({ id: await publishPipeline(database(), asked.data) }, { status: 201 });
    } catch (error) {
      if (!(error instanceof OutdatedDraft)) throw error;
      return problem(409, { title: "Something else was published", detail: error.message });
    }
  });
}
