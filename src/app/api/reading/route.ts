import { runJob } from "@/engine/pool";
import { answering, badRequest, outcome } from "../answer";
import { picksOf, readingQuery } from "../query";

export const dynamic = "force-dynamic";

/** GET /api/reading?text=&from=&to=&every=&zone=&pick.NAME= */
export function GET(request: Request): Promise<Response> {
  return answering(async () => {
    const { searchParams } = new URL(request.url);
    const query = readingQuery.safeParse(Object.fromEntries(searchParams));
    if (!query.success) return badRequest(query.error);
    const { every, ...rest } = query.data;
    return outcome(
      await runJob({ type: "reading", ...rest, every: every ?? null, picks: picksOf(searchParams) }, request.signal),
    );
  });
}
