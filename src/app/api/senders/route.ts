import { tokenRule } from "@/core/api/senders";
import { listTokens, setTokensNeeded, tokensNeeded } from "@/store/tokens";
import { clearTurnedAway, listTurnedAway } from "@/store/turnedAway";
import { answering, badRequest, jsonBody } from "../answer";
import { database } from "../database";

export const dynamic = "force-dynamic";

/** GET /api/senders: tokens, whether one is needed, and who was turned away. */
export function GET(): Promise<Response> {
  return answering(async () =>
    Response.json({
      needed: await tokensNeeded(database()),
      tokens: await listTokens(database()),
      turnedAway: await listTurnedAway(database()),
    }),
  );
}

/** PUT /api/senders: whether points are taken only with a token. */
export function PUT(request: Request): Promise<Response> {
  return answering(async () => {
    const rule = tokenRule.safeParse(await jsonBody(request));
    if (!rule.success) return badRequest(rule.error);
    await setTokensNeeded(database(), rule.data.needed);
    return Response.json({});
  });
}

/** DELETE /api/senders: takes all who were turned away off the record. */
export function DELETE(): Promise<Response> {
  return answering(async () => {
    await clearTurnedAway(database());
    return Response.json({});
  });
}
