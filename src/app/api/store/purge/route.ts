import { nameOf } from "@/access/callers";
import { purge } from "@/core/api/calls/store";
import { requestPurge } from "@/store/strips/purge";
import { database } from "../../database";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const POST = serve(purge, async ({ body, caller }) => ({
  id: await requestPurge(database(), body, nameOf(caller)),
}));
