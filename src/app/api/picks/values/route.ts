import { getPickValues } from "@/core/api/calls/sheets";
import { runJob } from "@/engine/pool";
import { resultOf, serve } from "../../serve";

export const dynamic = "force-dynamic";

export const POST = serve(getPickValues, async ({ body: { source, picks }, asking }) =>
  resultOf(await runJob({ type: "pick values", source, picks }, asking)),
);
