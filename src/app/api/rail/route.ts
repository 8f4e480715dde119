import { getRail } from "@/core/api/calls/releases";
import { runJob } from "@/engine/pool";
import { resultOf, serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getRail, async ({ query, asking }) =>
  resultOf(await runJob({ type: "rail", ...query }, asking)),
);
