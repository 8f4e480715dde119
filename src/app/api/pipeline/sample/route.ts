import { getSample } from "@/core/api/calls/pipeline";
import { readSample } from "@/store/pipeline/samples";
import { database } from "../../database";
import { serve } from "../../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getSample, async () => {
  const { seen, points, span, blocks } = await readSample(database());
  const size = blocks.reduce((sum, block) => sum + 4 + block.length, 0);
  const body = new Uint8Array(size);
  const view = new DataView(body.buffer);
  let at = 0;
  for (const block of blocks) {
    view.setUint32(at, block.length, true);
    body.set(block, at + 4);
    at += 4 + block.length;
  }
  const headers = { "X-Tin-Seen": String(seen), "X-Tin-Points": String(points), "X-Tin-Span": String(span) };
  return new Response(body, { headers: { "Content-Type": "application/octet-stream", ...headers } });
});
