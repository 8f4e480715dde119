import { listFindings } from "@/store/findings";
import { answering } from "../answer";
import { database } from "../database";

export const dynamic = "force-dynamic";

/** GET /api/findings: what does not look as it should, of all metrics. */
export function GET(): Promise<Response> {
  return answering(async () => Response.json({ findings: await listFindings(database()) }));
}
