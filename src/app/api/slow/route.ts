import { z } from "zod";
import { USUALLY_SLOW } from "@/core/service/sections";
import { readSetting, writeSetting } from "@/store/settings";
import { answering, badRequest, jsonBody } from "../answer";
import { database } from "../database";

export const dynamic = "force-dynamic";

const NAME = "slow";
const bound = z.number().positive().max(86_400);
const bounds = z.object({ calls: bound, outgoing: bound, database: bound, messages: bound }).partial();

/** GET /api/slow: what counts as slow, by kind of work, s. */
export function GET(): Promise<Response> {
  return answering(async () => {
    const saved = bounds.safeParse(await readSetting(database(), NAME));
    return Response.json({ ...USUALLY_SLOW, ...(saved.success ? saved.data : {}) });
  });
}

/** PUT /api/slow: changes some of the bounds. */
export function PUT(request: Request): Promise<Response> {
  return answering(async () => {
    const asked = bounds.safeParse(await jsonBody(request));
    if (!asked.success) return badRequest(asked.error);
    const saved = bounds.safeParse(await readSetting(database(), NAME));
    await writeSetting(database(), NAME, { ...(saved.success ? saved.data : {}), ...asked.data });
    return Response.json({});
  });
}
