import { listAttributes, listMetrics } from "@/store/catalogue";
import { answering } from "../answer";
import { database } from "../database";

export const dynamic = "force-dynamic";

/** GET /api/catalogue: all metrics; with ?metric=NAME the attributes of one, with values. */
export function GET(request: Request): Promise<Response> {
  return answering(async () => {
    const metric = new URL(request.url).searchParams.get("metric");
    if (metric === null) return Response.json({ metrics: await listMetrics(database()) });
    return Response.json({ attributes: await listAttributes(database(), metric) });
  });
}
