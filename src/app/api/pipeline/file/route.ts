import { stringify } from "yaml";
import { differingLines } from "@/core/draft/lines";
import { type PipelineConfig, pipelineSchema } from "@/core/pipeline/config";
import { listPipelines, livePipeline, OutdatedDraft, publishPipeline } from "@/store/pipeline";
import { answering, problem } from "../../answer";
import { database } from "../../database";
import { uploadedFile } from "../../uploadedFile";

export const dynamic = "force-dynamic";

const FILE = {
  schema: pipelineSchema,
  parts: ["receivers", "metrics", "traces", "logs", "exporters"],
  maxBytes: 1024 * 1024,
};

/** GET /api/pipeline/file[?format=json][&version=]: a version as a file, the live one and YAML unless told otherwise. */
export function GET(request: Request): Promise<Response> {
  return answering(async () => {
    const { searchParams } = new URL(request.url);
    const json = searchParams.get("format") === "json";
    const wanted = searchParams.get("version");
    const version =
      wanted === null
        ? await livePipeline(database())
        : (await listPipelines(database())).find(({ id }) => String(id) === wanted);
    if (!version) return problem(404, { title: "No such version", detail: `there is no version ${wanted}` });
    const { config } = version;
    const text = json ? `${JSON.stringify(config, null, 2)}\n` : stringify(config, { lineWidth: 0 });
    return new Response(text, {
      headers: {
        "Content-Type": json ? "application/json" : "application/yaml",
        "Content-Disposition": `attachment; filename="pipeline-${version.id}.${json ? "json" : "yaml"}"`,
      },
    });
  });
}

/**
 * POST /api/pipeline/file: reads such a file, JSON or YAML, and tells what would differ from the live version, line by
 * line. With ?based=<the live version>&who=&note= it is published in its place.
 */
export function POST(request: Request): Promise<Response> {
  return answering(async () => {
    const { searchParams } = new URL(request.url);
    const file = await uploadedFile<PipelineConfig>(request, FILE);
    if ("refused" in file) return file.refused;
    const { data: config } = file;
    const live = await livePipeline(database());
    const based = searchParams.get("based");
    if (based === null)
      return Response.json({ config, live: live.id, differences: differingLines(live.config, config) });
    const who = searchParams.get("who")?.trim().slice(0, 100) ?? "";
    if (who === "") return problem(400, { title: "Who publishes?", detail: "say who publishes it: who=…" });
    const note = searchParams.get("note")?.trim().slice(0, 500) || "published from a file";
    try {
      const id = await publishPipeline(database(), { config, who, note, based: Number(based) });
      return Response.json({ id }, { status: 201 });
    } catch (error) {
      if (!(error instanceof OutdatedDraft)) throw error;
      return problem(409, { title: "Something else was published", detail: error.message });
    }
  });
}
