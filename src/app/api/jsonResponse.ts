/** Bytes that are handed on at a time. */
const PIECE = 64 * 1024;

/** Hands JSON that a thread wrote on, piece by piece, as fast as the asker takes it. */
export function jsonResponse(json: Uint8Array, headers: Headers = new Headers()): Response {
  headers.set("Content-Type", "application/json");
  let at = 0;
  const pieces = new ReadableStream<Uint8Array>({
    pull(controller) {
      controller.enqueue(json.subarray(at, at + PIECE));
      at += PIECE;
      if (at >= json.length) controller.close();
    },
  });
  return new Response(pieces, { headers });
}
