import { answerReadings } from "@/core/api/calls/readings";
import { runJob } from "@/engine/pool";
import { jsonResponse } from "../jsonResponse";
import { resultOf, serve } from "../serve";

export const dynamic = "force-dynamic";

export const POST = serve(answerReadings, async ({ body: { readings, ...rest }, asking }) => {
  const all = readings.map(({ text, every }) => ({ text, every: every ?? null }));
  return jsonResponse(resultOf(await runJob({ type: "readings", readings: all, ...rest }, asking)));
});
