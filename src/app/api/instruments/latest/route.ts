import { getLatest } from "@/core/api/calls/instruments";
import { runJob } from "@/engine/pool";
import { resultOf, serve } from "../../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getLatest, async ({ query, asking }) =>
  resultOf(await runJob({ type: "latest", ...query }, asking)),
);
