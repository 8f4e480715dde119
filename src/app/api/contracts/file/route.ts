import { parse, stringify } from "yaml";
import { contractFile } from "@/core/contract/contract";
import { listContracts, saveContracts } from "@/store/contracts";
import { answering, badRequest, problem } from "../../answer";
import { database } from "../../database";

export const dynamic = "force-dynamic";

const MOST_BYTES = 8 * 1024 * 1024;

/** GET /api/contracts/file[?format=json]: all contracts as a file for review, YAML unless told otherwise. */
export function GET(request: Request): Promise<Response> {
  return answering(async () => {
    const json = new URL(request.url).searchParams.get("format") === "json";
    const content = { contracts: (await listContracts(database())).map(({ body }) => body) };
    const text = json ? `${JSON.stringify(content, null, 2)}\n` : stringify(content, { lineWidth: 0 });
    return new Response(text, {
      headers: {
        "Content-Type": json ? "application/json" : "application/yaml",
        "Content-Disposition": `attachment; filename="contracts.${json ? "json" : "yaml"}"`,
      },
    });
  });
}

/** POST /api/contracts/file?who=: takes such a file, JSON or YAML; each contract that says something else is saved. */
export function POST(request: Request): Promise<Response> {
  return answering(async () => {
    const who = new URL(request.url).searchParams.get("who")?.trim().slice(0, 100) || "import";
    const text = await request.text();
    if (text.length > MOST_BYTES) return problem(413, { title: "Too large", detail: "the file has more than 8 MiB" });
    let content: unknown;
    try {
      // JSON is YAML too; aliases could make a small file large.
      content = parse(text, { maxAliasCount: 0 });
    } catch (error) {
      return problem(400, { title: "Not understood", detail: `neither JSON nor YAML: ${(error as Error).message}` });
    }
    const file = contractFile.safeParse(content);
    if (!file.success) return badRequest(file.error);
    const saved = await saveContracts(
      database(),
      file.data.contracts.map((body) => ({ name: body.name, body, note: "imported from a file", who })),
    );
    return Response.json({ saved, same: file.data.contracts.length - saved.length });
  });
}
