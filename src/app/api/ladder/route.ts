import { runJob } from "@/engine/pool";
import { answering, badRequest, outcome } from "../answer";
import { ladderQuery } from "../query";

export const dynamic = "force-dynamic";

/** GET /api/ladder?service=&environment=&metric=&from=&to=&zone= */
export function GET(request: Request): Promise<Response> {
  return answering(async () => {
    const query = ladderQuery.safeParse(Object.fromEntries(new URL(request.url).searchParams));
    if (!query.success) return badRequest(query.error);
    return outcome(await runJob({ type: "ladder", ...query.data }, request.signal));
  });
}
