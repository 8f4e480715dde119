import { changeTokenRule, clearRejected, getSenders } from "@/core/api/calls/senders";
import { clearRejectedRequests as clear, listRejectedRequests } from "@/store/senders/rejectedRequests";
import { listTokens, setTokensNeeded, tokensNeeded } from "@/store/senders/tokens";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getSenders, async () => ({
  needed: await tokensNeeded(database()),
  tokens: await listTokens(database()),
  rejected: await listRejectedRequests(database()),
}));

export const PUT = serve(changeTokenRule, async ({ body: { needed } }) => {
  await setTokensNeeded(database(), needed);
  return {};
});

export const DELETE = serve(clearRejected, async () => {
  await clear(database());
  return {};
});
