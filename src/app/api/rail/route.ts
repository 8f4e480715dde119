import { runJob } from "@/engine/pool";
import { answering, badRequest, outcome } from "../answer";
import { railQuery } from "../query";

export const dynamic = "force-dynamic";

/** GET /api/rail?service=&environment=&from=&to= */
export function GET(request: Request): Promise<Response> {
  return answering(async () => {
    const query = railQuery.safeParse(Object.fromEntries(new URL(request.url).searchParams));
    if (!query.success) return badRequest(query.error);
    return outcome(await runJob({ type: "rail", ...query.data }, request.signal));
  });
}
