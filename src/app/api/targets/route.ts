import { targetRequest } from "@/core/api/targets";
import { createTarget, listTargets } from "@/store/targets";
import { answering, badRequest, jsonBody } from "../answer";
import { database } from "../database";

export const dynamic = "force-dynamic";

/** GET /api/targets: what is scraped, and how that goes. */
export function GET(): Promise<Response> {
  return answering(async () => Response.json({ targets: await listTargets(database()) }));
}

/** POST /api/targets: saves a target; its scrapes begin at once. */
export function POST(request: Request): Promise<Response> {
  return answering(async () => {
    const asked = targetRequest.safeParse(await jsonBody(request));
    if (!asked.success) return badRequest(asked.error);
    return Response.json({ id: await createTarget(database(), asked.data) }, { status: 201 });
  });
}
