import { tokenRequest } from "@/core/api/senders";
import { createToken } from "@/store/tokens";
import { answering, badRequest, jsonBody } from "../../answer";
import { database } from "../../database";

export const dynamic = "force-dynamic";

/** POST /api/senders/tokens: makes a token. Its text is in this answer and nowhere else. */
export function POST(request: Request): Promise<Response> {
  return answering(async () => {
    const asked = tokenRequest.safeParse(await jsonBody(request));
    if (!asked.success) return badRequest(asked.error);
    return Response.json(await createToken(database(), asked.data), { status: 201 });
  });
}
