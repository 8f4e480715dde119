import { answerReadings } from "@/core/api/calls/readings";
import { runJob } from "@/engine/pool";
import { resultOf, serve } from "../serve";

export const dynamic = "force-dynamic";

export const POST = serve(answerReadings, async ({ body: { readings, ...rest }, request }) => {
  const all = readings.map(({ text, every }) => ({ text, every: every ?? null }));
  return resultOf(await runJob({ type: "readings", readings: all, ...rest }, request.signal));
});
