import { previewPurge } from "@/core/api/calls/store";
import { runJob } from "@/engine/pool";
import { resultOf, serve } from "../../../serve";

export const dynamic = "force-dynamic";

export const POST = serve(previewPurge, async ({ body, asking }) =>
  resultOf(await runJob({ type: "purge preview", metric: body.metric, request: body }, asking)),
);
