import { nameOf } from "@/access/callers";
import { getKeys, makeKey } from "@/core/api/calls/people";
import { createKey, listKeys } from "@/store/access/keys";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getKeys, async () => ({ keys: await listKeys(database()) }));

export const POST = serve(makeKey, ({ body, caller }) =>
  createKey(database(), body, { name: nameOf(caller), account: caller.kind === "account" ? caller.id : null }),
);
