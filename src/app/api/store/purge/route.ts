import { purgeRequest, signedPurge } from "@/core/api/purge";
import { previewPurge, requestPurge } from "@/store/purge";
import { answering, badRequest, jsonBody } from "../../answer";
import { database } from "../../database";

export const dynamic = "force-dynamic";

/** POST /api/store/purge: puts a purge on record. With ?preview it only says what would go. */
export function POST(request: Request): Promise<Response> {
  return answering(async () => {
    const body = await jsonBody(request);
    if (new URL(request.url).searchParams.has("preview")) {
      const asked = purgeRequest.safeParse(body);
      return asked.success ? Response.json(await previewPurge(database(), asked.data)) : badRequest(asked.error);
    }
    const signed = signedPurge.safeParse(body);
    if (!signed.success) return badRequest(signed.error);
    const { who, ...what } = signed.data;
    return Response.json({ id: await requestPurge(database(), what, who) }, { status: 202 });
  });
}
