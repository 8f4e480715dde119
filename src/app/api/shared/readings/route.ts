import { answerShared } from "@/core/api/calls/shared";
import { readingsOf } from "@/core/sheet/plates";
import { runJob } from "@/engine/pool";
import { Refusal, resultOf, serve } from "../../serve";
import { behind, offered } from "../behind";

export const dynamic = "force-dynamic";

export const POST = serve(answerShared, async ({ body: { link, readings, picks: asked, ...window }, request }) => {
  const { saved } = await behind(link);
  const own = new Set(readingsOf(saved.body).map(({ reading }) => reading.text));
  const other = readings.find((text) => !own.has(text));
  if (other !== undefined)
    throw new Refusal(403, {
      title: "Not on this sheet",
      detail: `"${other}" does not stand on the sheet of this link`,
    });
  const picks = (await offered(saved.body.picks, asked)) as Record<string, string[]>;
  const all = readings.map((text) => ({ text, every: null }));
  return resultOf(await runJob({ type: "readings", readings: all, ...window, picks }, request.signal));
});
