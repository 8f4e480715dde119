import { z } from "zod";
import { USUALLY_SLOW } from "@/core/service/sections";
import { changeSetting, giveSetting } from "../setting";

export const dynamic = "force-dynamic";

const bound = z.number().positive().max(86_400);
const SLOW = {
  name: "slow",
  schema: z.object({ calls: bound, outgoing: bound, database: bound, messages: bound }),
  usual: USUALLY_SLOW,
};

/** GET /api/slow: what counts as slow, by kind of work, s. */
export function GET(): Promise<Response> {
  return giveSetting(SLOW);
}

/** PUT /api/slow: changes some of the bounds. */
export function PUT(request: Request): Promise<Response> {
  return changeSetting(SLOW, request);
}
