import { changeKeyRule, clearRejected, getSenders } from "@/core/api/calls/senders";
import { keysNeeded, listKeys, setKeysNeeded } from "@/store/access/keys";
import { clearRejectedRequests as clear, listRejectedRequests } from "@/store/senders/rejectedRequests";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getSenders, async () => {
  const now = Date.now();
  const inForce = (await listKeys(database())).filter(
    ({ scopes, revokedAt, expiresAt }) =>
      scopes.includes("send") && revokedAt === null && (expiresAt === null || expiresAt > now),
  );
  return {
    needed: await keysNeeded(database()),
    keys: inForce.map(({ name, environment, lastUsedAt }) => ({ name, environment, lastUsedAt })),
    rejected: await listRejectedRequests(database()),
  };
});

export const PUT = serve(changeKeyRule, async ({ body: { needed } }) => {
  await setKeysNeeded(database(), needed);
  return {};
});

export const DELETE = serve(clearRejected, async () => {
  await clear(database());
  return {};
});
