import { DONE } from "@/core/api/call";
import { changeTarget, deleteTarget, restoreTarget } from "@/core/api/calls/senders";
import * as store from "@/store/senders/targets";
import { database } from "../../database";
import { Refusal, serve } from "../../serve";

export const dynamic = "force-dynamic";

function found(there: boolean): typeof DONE {
  if (there) return DONE;
  throw new Refusal(404, { title: "No such target", detail: "no target has this number; it may be deleted" });
}

export const PUT = serve(changeTarget, async ({ params: { id }, body }) => {
  try {
    return found(await store.changeTarget(database(), id, body));
  } catch (error) {
    if (!(error instanceof store.SecretElsewhereError)) throw error;
    throw new Refusal(400, { title: "The secret is for another address", detail: error.message });
  }
});

export const DELETE = serve(deleteTarget, async ({ params: { id } }) =>
  found(await store.deleteTarget(database(), id)),
);

export const POST = serve(restoreTarget, async ({ params: { id } }) =>
  found(await store.restoreTarget(database(), id)),
);
