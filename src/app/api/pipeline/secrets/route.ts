import { z } from "zod";
import { setExporterSecret } from "@/store/exporterSecrets";
import { answering, badRequest, jsonBody } from "../../answer";
import { database } from "../../database";

export const dynamic = "force-dynamic";

const secret = z.object({
  exporter: z.string().regex(/^[a-z0-9-]{1,40}$/, "the id of an exporter is expected"),
  name: z.string().regex(/^[A-Za-z0-9-]{1,100}$/, "the name of a header is expected, or token for a page"),
  /** "" forgets it. */
  value: z
    .string()
    .max(4000)
    .regex(/^[\x20-\x7e]*$/, "printable characters are expected"),
});

/** POST /api/pipeline/secrets: keeps the value of a header of an exporter; it is never given out again. */
export function POST(request: Request): Promise<Response> {
  return answering(async () => {
    const asked = secret.safeParse(await jsonBody(request));
    if (!asked.success) return badRequest(asked.error);
    const { exporter, name, value } = asked.data;
    await setExporterSecret(database(), exporter, name, value);
    return Response.json({ exporter, name, kept: value !== "" });
  });
}
