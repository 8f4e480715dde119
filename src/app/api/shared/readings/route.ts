import { answerShared } from "@/core/api/calls/shared";
import { readingsOf } from "@/core/sheet/plates";
import { runJob } from "@/engine/pool";
import { jsonResponse } from "../../jsonResponse";
import { Refusal, serve } from "../../serve";
import { askingBy, behind, offered } from "../behind";

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
  const asking = askingBy(link, request);
  const picks = (await offered(saved.body.picks, asked, asking)) as Record<string, string[]>;
  const outcomes = await Promise.all(
    readings.map((text) =>
      runJob({ type: "versioned reading", text, every: null, known: null, ...window, picks }, asking),
    ),
  );
  const parts = outcomes.map((outcome) =>
    outcome.ok
      ? Buffer.concat([
          Buffer.from('{"ok":true,"value":'),
          outcome.value.value ?? Buffer.from("null"),
          Buffer.from("}"),
        ])
      : Buffer.from(JSON.stringify(outcome)),
  );
  const comma = Buffer.from(",");
  const list = parts.flatMap((part, i) => (i === 0 ? [part] : [comma, part]));
  return jsonResponse(Buffer.concat([Buffer.from("["), ...list, Buffer.from("]")]));
});
