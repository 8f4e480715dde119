import { trialRequest } from "@/core/api/targets";
import { houseKey } from "@/store/secrets";
import { answering, badRequest, jsonBody, problem } from "../../answer";

export const dynamic = "force-dynamic";

/** POST /api/targets/try: tries a target from where it will be scraped: the intake. */
export function POST(request: Request): Promise<Response> {
  return answering(async () => {
    const asked = trialRequest.safeParse(await jsonBody(request));
    if (!asked.success) return badRequest(asked.error);
    const intake = `http://127.0.0.1:${process.env.TIN_INTAKE_PORT ?? 4318}/targets/try`;
    let answer: Response;
    try {
      answer = await fetch(intake, {
        method: "POST",
        headers: { "Content-Type": "application/json", "X-Tin-Key": houseKey() },
        body: JSON.stringify(asked.data),
      });
    } catch {
      return problem(503, {
        title: "The intake does not answer",
        detail: `targets are tried from the intake, which should listen on ${intake}; is it running?`,
      });
    }
    const body = (await answer.json().catch(() => ({}))) as { message?: string };
    if (answer.ok) return Response.json(body);
    return problem(answer.status, {
      title: "Not tried",
      detail: body.message ?? `the intake answered ${answer.status}`,
    });
  });
}
