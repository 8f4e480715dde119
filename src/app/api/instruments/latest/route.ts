import { runJob } from "@/engine/pool";
import { answering, badRequest, outcome } from "../../answer";
import { latestQuery } from "../../query";

export const dynamic = "force-dynamic";

/** GET /api/instruments/latest?metric=&from=&to= : the last point of each series, as a table and as OpenMetrics text. */
export function GET(request: Request): Promise<Response> {
  return answering(async () => {
    const query = latestQuery.safeParse(Object.fromEntries(new URL(request.url).searchParams));
    if (!query.success) return badRequest(query.error);
    return outcome(await runJob({ type: "latest", ...query.data }, request.signal));
  });
}
