import { runJob } from "@/engine/pool";
import { answering, badRequest, jsonBody, outcome } from "../answer";
import { readingsBody } from "../query";

export const dynamic = "force-dynamic";

/**
 * POST /api/readings: several readings over one window, computed together.
 * Body: { readings: [{ text, every? }], from, to, zone?, picks? }, with times and durations as for /api/reading.
 */
export function POST(request: Request): Promise<Response> {
  return answering(async () => {
    const body = readingsBody.safeParse(await jsonBody(request));
    if (!body.success) return badRequest(body.error);
    return outcome(await runJob({ type: "readings", ...body.data }, request.signal));
  });
}
