import { answerReading } from "@/core/api/calls/readings";
import { runJob } from "@/engine/pool";
import { resultOf, serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(answerReading, async ({ query: { every, ...rest }, request }) =>
  resultOf(await runJob({ type: "reading", ...rest, every: every ?? null }, request.signal)),
);
