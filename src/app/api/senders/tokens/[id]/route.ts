import { revokeToken } from "@/core/api/calls/senders";
import { revokeToken as revoke } from "@/store/senders/tokens";
import { database } from "../../../database";
import { Refusal, serve } from "../../../serve";

export const dynamic = "force-dynamic";

export const DELETE = serve(revokeToken, async ({ params: { id } }) => {
  if (await revoke(database(), id)) return {};
  throw new Refusal(404, { title: "No such token", detail: "no token in force has this number" });
});
