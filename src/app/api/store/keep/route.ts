import { keepMetric } from "@/core/api/calls/store";
import { setKeep } from "@/store/overview";
import { database } from "../../database";
import { Refusal, serve } from "../../serve";

export const dynamic = "force-dynamic";

export const POST = serve(keepMetric, async ({ body }) => {
  if (await setKeep(database(), body)) return {};
  throw new Refusal(404, { title: "No such metric", detail: `no metric named ${body.metric} has arrived` });
});
