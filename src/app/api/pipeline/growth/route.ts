import { z } from "zod";
import { GROWTH_SPANS, type GrowthAnswer } from "@/core/api/pipeline";
import { seriesGrowth } from "@/store/growth";
import { answering, badRequest } from "../../answer";
import { database } from "../../database";

export const dynamic = "force-dynamic";

const [HOUR, DAY, WEEK] = GROWTH_SPANS;
const query = z.object({
  back: z.coerce
    .number()
    .refine((back) => back >= HOUR && back <= WEEK, "from an hour to a week, in milliseconds")
    .default(DAY),
});

/** GET /api/pipeline/growth?back=MS: the metrics with most series, and what made them grow since then. */
export function GET(request: Request): Promise<Response> {
  return answering(async () => {
    const asked = query.safeParse(Object.fromEntries(new URL(request.url).searchParams));
    if (!asked.success) return badRequest(asked.error);
    const now = Date.now();
    const since = now - asked.data.back;
    const answer: GrowthAnswer = { since, metrics: await seriesGrowth(database(), now, since) };
    return Response.json(answer);
  });
}
