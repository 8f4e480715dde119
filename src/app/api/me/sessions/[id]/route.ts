import { auth } from "@/access/auth";
import { endSession } from "@/core/api/calls/access";
import { database } from "../../../database";
import { Refusal, serve } from "../../../serve";

export const dynamic = "force-dynamic";

export const DELETE = serve(endSession, async ({ params: { id }, request }) => {
  const { api } = auth(database());
  const found = (await api.listSessions({ headers: request.headers })).find((one) => one.id === id);
  if (!found)
    throw new Refusal(404, { title: "No such session", detail: "no session of yours has this id; it may have ended" });
  await api.revokeSession({ body: { token: found.token }, headers: request.headers });
  return {};
});
