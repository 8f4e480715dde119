import { changeTokenRule, clearTurnedAway, getSenders } from "@/core/api/calls/senders";
import { listTokens, setTokensNeeded, tokensNeeded } from "@/store/senders/tokens";
import { clearTurnedAway as clear, listTurnedAway } from "@/store/senders/turnedAway";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getSenders, async () => ({
  needed: await tokensNeeded(database()),
  tokens: await listTokens(database()),
  turnedAway: await listTurnedAway(database()),
}));

export const PUT = serve(changeTokenRule, async ({ body: { needed } }) => {
  await setTokensNeeded(database(), needed);
  return {};
});

export const DELETE = serve(clearTurnedAway, async () => {
  await clear(database());
  return {};
});
