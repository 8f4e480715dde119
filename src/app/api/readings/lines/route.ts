import { setMaxListeners } from "node:events";
import { streamReadings } from "@/core/api/calls/readings";
import type { VersionedAnswer } from "@/engine/jobs/versioned";
import type { Outcome } from "@/engine/outcome";
import { runJob } from "@/engine/pool";
import { unforeseen } from "../../answer";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const POST = serve(streamReadings, ({ body: { readings, ...window }, request, asking }) => {
  type Wanted = (typeof readings)[number];
  const leave = new AbortController();
  const signal = AbortSignal.any([request.signal, leave.signal]);
  // Each reading listens.
  setMaxListeners(0, signal);
  const outcomeOf = async ({ text, every = null, known = null }: Wanted): Promise<Outcome<VersionedAnswer>> => {
    try {
      return await runJob({ type: "versioned reading", text, every, known, ...window }, { ...asking, signal });
    } catch (error) {
      signal.throwIfAborted();
      const { status, content } = unforeseen(error, { text, ...window });
      return { ok: false, status, problem: content };
    }
  };
  const encoder = new TextEncoder();
  const lines = new ReadableStream<Uint8Array>({
    async start(controller) {
      const send = async (wanted: Wanted, place: number) => {
        const outcome = await outcomeOf(wanted);
        const { value, ...head } = outcome.ok ? { ...outcome.value, ok: true } : { ...outcome, value: null };
        const line = JSON.stringify({ place, ...head });
        if (!value)
          return controller.enqueue(encoder.encode(`${outcome.ok ? `${line.slice(0, -1)},"value":null}` : line}\n`));
        controller.enqueue(encoder.encode(`${line.slice(0, -1)},"value":`));
        controller.enqueue(value);
        controller.enqueue(encoder.encode("}\n"));
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
