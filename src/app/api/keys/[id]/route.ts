import { revokeKey } from "@/core/api/calls/people";
import { revokeKey as revoke } from "@/store/access/keys";
import { database } from "../../database";
import { Refusal, record, serve } from "../../serve";

export const dynamic = "force-dynamic";

export const DELETE = serve(revokeKey, async (asked) => {
  const name = await revoke(database(), asked.params.id);
  if (name === null) {
    const detail = "no key in force has this number; it may have been revoked already";
    throw new Refusal(404, { title: "No such key", detail });
  }
  await record(asked, "revoked a key", name);
  return {};
});
