import { parse, stringify } from "yaml";
import { pipelineSchema } from "@/core/pipeline/config";
import { listPipelines, livePipeline, OutdatedDraft, publishPipeline } from "@/store/pipeline";
import { answering, badRequest, problem } from "../../answer";
import { database } from "../../database";

export const dynamic = "force-dynamic";

const MOST_BYTES = 1024 * 1024;

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

/** POST /api/pipeline/file?who=&note=: publishes such a file, JSON or YAML, in the place of what is live. */
export function POST(request: Request): Promise<Response> {
  return answering(async () => {
    const { searchParams } = new URL(request.url);
    const who = searchParams.get("who")?.trim().slice(0, 100) || "import";
    const note = searchParams.get("note")?.trim().slice(0, 500) || "published from a file";
    const text = await request.text();
    if (text.length > MOST_BYTES) return problem(413, { title: "Too large", detail: "the file has more than 1 MiB" });
    let content: unknown;
    try {
      // JSON is YAML too; aliases could make a small file large.
      content = parse(text, { maxAliasCount: 0 });
    } catch (error) {
      return problem(400, { title: "Not understood", detail: `neither JSON nor YAML: ${(error as Error).message}` });
    }
    const config = pipelineSchema.safeParse(content);
    if (!config.success) return badRequest(config.error);
    const { id: based } = await livePipeline(database());
    try {
      return Response.json(
        { id: await publishPipeline(database(), { config: config.data, who, note, based }) },
        { status: 201 },
      );
    } catch (error) {
      if (!(error instanceof OutdatedDraft)) throw error;
      return problem(409, { title: "Something else was published", detail: error.message });
    }
  });
}
