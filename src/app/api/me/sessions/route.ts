import { auth } from "@/access/auth";
import { endOtherSessions, getSessions } from "@/core/api/calls/access";
import { database } from "../../database";
import { serve } from "../../serve";
import { accountOf } from "../../signing";

export const dynamic = "force-dynamic";

export const GET = serve(getSessions, async ({ caller, request }) => {
  const { session } = accountOf(caller);
  const all = await auth(database()).api.listSessions({ headers: request.headers });
  return {
    sessions: all.map(({ id, createdAt, expiresAt, ipAddress, userAgent }) => ({
      id,
      own: id === session,
      createdAt: createdAt.getTime(),
      expiresAt: expiresAt.getTime(),
      address: ipAddress ?? "",
      agent: userAgent ?? "",
    })),
  };
});

export const DELETE = serve(endOtherSessions, async ({ request }) => {
  await auth(database()).api.revokeOtherSessions({ headers: request.headers });
  return {};
});
