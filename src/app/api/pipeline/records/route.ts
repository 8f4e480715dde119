import { readRecordSample } from "@/store/samples";
import { answering } from "../../answer";
import { database } from "../../database";

export const dynamic = "force-dynamic";

/** GET /api/pipeline/records: spans and log records of the last minutes as they arrived, to try drafts on. */
export function GET(): Promise<Response> {
  return answering(async () => {
    const [traces, logs] = await Promise.all([
      readRecordSample(database(), "traces"),
      readRecordSample(database(), "logs"),
    ]);
    return Response.json({ traces, logs });
  });
}
