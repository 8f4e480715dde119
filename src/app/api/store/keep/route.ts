import { keepRequest } from "@/core/api/store";
import { setKeep } from "@/store/overview";
import { answering, badRequest, jsonBody, problem } from "../../answer";
import { database } from "../../database";

export const dynamic = "force-dynamic";

/** POST /api/store/keep: sets for how long a metric is kept at each resolution. */
export function POST(request: Request): Promise<Response> {
  return answering(async () => {
    const asked = keepRequest.safeParse(await jsonBody(request));
    if (!asked.success) return badRequest(asked.error);
    if (await setKeep(database(), asked.data)) return Response.json({});
    return problem(404, { title: "No such metric", detail: `no metric named ${asked.data.metric} has arrived` });
  });
}
