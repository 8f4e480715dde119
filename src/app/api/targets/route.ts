import { addTarget, getTargets } from "@/core/api/calls/senders";
import { createTarget, listTargets } from "@/store/senders/targets";
import { database } from "../database";
import { serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getTargets, async () => ({ targets: await listTargets(database()) }));

export const POST = serve(addTarget, async ({ body }) => ({ id: await createTarget(database(), body) }));
