import { readSample } from "@/store/samples";
import { answering } from "../../answer";
import { database } from "../../database";

export const dynamic = "force-dynamic";

/**
 * GET /api/pipeline/sample: arrivals of the last minutes as blocks, each after its size (u32, little endian). The head
 * X-Tin-Seen says how many points came in that time, X-Tin-Span how long it was, ms.
 */
export function GET(): Promise<Response> {
  return answering(async () => {
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
}
