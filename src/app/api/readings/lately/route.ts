import { DONE } from "@/core/api/call";
import { getLately, noteLately } from "@/core/api/calls/readings";
import { listRead, noteRead } from "@/store/readings/lately";
import { database } from "../../database";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getLately, async () => ({ readings: await listRead(database()) }));

export const POST = serve(noteLately, async ({ body: { reading }, caller }) => {
  // It is a list of what people read; a program asks the same again and again.
  if (caller.kind === "account") await noteRead(database(), reading, caller.id, Date.now());
  return DONE;
});
