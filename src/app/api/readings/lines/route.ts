import { streamReadings } from "@/core/api/calls/readings";
import type { ReadingOutcome } from "@/core/api/readings";
import { runJob } from "@/engine/pool";
import { unforeseen } from "../../answer";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const POST = serve(streamReadings, ({ body: { readings, ...window }, request }) => {
  const leave = new AbortController();
  const signal = AbortSignal.any([request.signal, leave.signal]);
  const outcomeOf = async (text: string, every: number | null): Promise<ReadingOutcome> => {
    try {
      return (await runJob({ type: "reading", text, every, ...window }, signal)) as ReadingOutcome;
    } catch (error) {
      signal.throwIfAborted();
      const { status, content } = unforeseen(error, { text, ...window });
      return { ok: false, status, problem: content };
    }
  };
  const encoder = new TextEncoder();
  const lines = new ReadableStream<Uint8Array>({
    async start(controller) {
      const send = async ({ text, every }: (typeof readings)[number], place: number) => {
        const outcome = await outcomeOf(text, every ?? null);
        controller.enqueue(encoder.encode(`${JSON.stringify({ place, ...outcome })}\n`));
      };
      try {
        await Promise.all(readings.map(send));
        controller.close();
      } catch (error) {
        // The asker went away: nobody reads the rest.
        leave.abort();
        controller.error(error);
      }
    },
    cancel: () => leave.abort(),
  });
  return new Response(lines, { headers: { "Content-Type": "application/x-ndjson", "Cache-Control": "no-store" } });
});
