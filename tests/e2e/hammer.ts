import { countOf, post, read } from "./helpers";

export const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

/**
 * Sends points of one counter from several loops at once. Each has a millisecond and a value of its own, so that a
 * lost or a doubled one shows in the sum.
 */
export function hammer(metric: string, began: number, loops: number, base: () => string) {
  const acknowledged: number[] = [];
  const unsure: number[] = [];
  let next = 0;
  let running = true;
  const send = (id: number) => post(countOf("hammer", metric, 1000 + id, began + id, { lane: String(id % 7) }), base());
  const loop = async () => {
    while (running) {
      const id = next++;
      const status = await send(id);
      (status === 200 ? acknowledged : unsure).push(id);
      if (status !== 200) await wait(150);
    }
  };
  const load = Promise.all(Array.from({ length: loops }, loop));
  return {
    acknowledged,
    unsure,
    send,
    /** Goes on until so many more were acknowledged, however long a busy machine takes for it. */
    until: async (more: number) => {
      const enough = acknowledged.length + more;
      while (acknowledged.length < enough) await wait(20);
    },
    stop: async () => {
      running = false;
      await load;
    },
    wanted: () => Array.from({ length: next }, (_, id) => 1000 + id).reduce((sum, value) => sum + value, 0),
    reads: (base: string) => read(`count of ${metric}`, began - 1000, began + next + 1000, "", base),
    counted: async (clause = "") =>
      (await read(`count of ${metric} ${clause}`, began - 1000, began + next + 1000)).series,
  };
}
