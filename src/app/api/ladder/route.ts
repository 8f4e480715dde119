import { getLadder } from "@/core/api/calls/releases";
import { runJob } from "@/engine/pool";
import { resultOf, serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getLadder, async ({ query, asking }) =>
  resultOf(await runJob({ type: "ladder", ...query }, asking)),
);
