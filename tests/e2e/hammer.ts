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
    for (let pause = 150; running; ) {
      const id = next++;
      const status = await send(id);
      (status === 200 ? acknowledged : unsure).push(id);
      // Where it is started again, which takes a busy machine minutes, not thousands are left to be sent again.
      if (status !== 200) await wait(pause);
      pause = status === 200 ? 150 : Math.min(2000, pause * 1.5);
    }
  };
  /** What was not acknowledged, several at a time, until all is. */
  const again = async () => {
    const left = [...unsure];
    const one = async () => {
      for (let id = left.pop(); id !== undefined; id = left.pop()) while ((await send(id)) !== 200) await wait(150);
    };
    await Promise.all(Array.from({ length: loops }, one));
  };
  const load = Promise.all(Array.from({ length: loops }, loop));
  return {
    acknowledged,
    unsure,
    send,
    again,
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
