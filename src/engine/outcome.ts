import type { Problem } from "@/core/api/readings";

/** How answering ends; plain data, which crosses a thread boundary. */

/** `status`: 400 for what the asker can mend, 429 where they ask too much at once, 500 for a fault of ours, 503 where the store is away. */
export type Outcome<T> = { ok: true; value: T } | Refused;

export interface Refused {
  ok: false;
  problem: Problem;
  status: 400 | 429 | 500 | 503;
}
