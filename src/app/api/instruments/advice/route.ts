import { runJob } from "@/engine/pool";
import { answering, badRequest, outcome } from "../../answer";
import { adviceQuery } from "../../query";

export const dynamic = "force-dynamic";

/** GET /api/instruments/advice?metric=&from=&to=&percents=50,95,99&count=12 : bucket bounds from what was observed. */
export function GET(request: Request): Promise<Response> {
  return answering(async () => {
    const query = adviceQuery.safeParse(Object.fromEntries(new URL(request.url).searchParams));
    if (!query.success) return badRequest(query.error);
    return outcome(await runJob({ type: "advice", ...query.data }, request.signal));
  });
}
