import { trialRequest } from "@/core/api/targets";
import { answering, badRequest, jsonBody } from "../../answer";
import { askIntake } from "../../intake";

export const dynamic = "force-dynamic";

/** POST /api/targets/try: tries a target from where it will be scraped: the intake. */
export function POST(request: Request): Promise<Response> {
  return answering(async () => {
    const asked = trialRequest.safeParse(await jsonBody(request));
    if (!asked.success) return badRequest(asked.error);
    const answer = await askIntake("/targets/try", asked.data, "Not tried");
    return answer instanceof Response ? answer : Response.json(answer);
  });
}
