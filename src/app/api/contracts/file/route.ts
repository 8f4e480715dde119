import { stringify } from "yaml";
import { contractFile } from "@/core/contract/contract";
import { listContracts, saveContracts } from "@/store/contracts";
import { answering } from "../../answer";
import { database } from "../../database";
import { uploadedFile } from "../../uploadedFile";

export const dynamic = "force-dynamic";

const FILE = { schema: contractFile, parts: ["contracts"], maxBytes: 8 * 1024 * 1024 };

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
    const file = await uploadedFile(request, FILE);
    if ("refused" in file) return file.refused;
    const saved = await saveContracts(
      database(),
      file.data.contracts.map((body) => ({ name: body.name, body, note: "imported from a file", who })),
    );
    return Response.json({ saved, same: file.data.contracts.length - saved.length });
  });
}
