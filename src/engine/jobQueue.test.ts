import fc from "fast-check";
import { JobQueue } from "./jobQueue";

/** Drains a queue by threads that take one item after the other, each for as long as it takes. @returns who took what, in order */
function drain(queue: JobQueue<number>, threads: number, costOf: (item: number, thread: number) => number) {
  const free = Array.from({ length: threads }, () => 0);
  const taken: { item: number; thread: number; at: number }[] = [];
  while (queue.size > 0) {
    const at = Math.min(...free);
    const thread = free.indexOf(at);
    const item = queue.take(thread)!;
    taken.push({ item, thread, at });
    free[thread] = at + costOf(item, thread);
  }
  return { taken, ended: Math.max(...free) };
}

test("each item is taken once, and by its own thread unless that has others to do", () => {
  fc.assert(
    fc.property(fc.array(fc.nat(2), { maxLength: 60 }), fc.integer({ min: 1, max: 3 }), (homes, threads) => {
      const queue = new JobQueue<number>(100);
      for (const [item, home] of homes.entries()) queue.put(item, home % threads);
      const left = new Set(homes.keys());
      const { taken } = drain(queue, threads, () => 1);
      for (const { item, thread } of taken) {
        const oldestOf = (wanted: (home: number) => boolean) => [...left].find((one) => wanted(homes[one] % threads));
        expect(item).toBe(oldestOf((home) => home === thread) ?? oldestOf(() => true));
        left.delete(item);
      }
      expect(left.size).toBe(0);
    }),
  );
});

test("no thread stands idle while another has more to do than one item", () => {
  const queue = new JobQueue<number>(100);
  for (let item = 0; item < 24; item++) queue.put(item, item < 20 ? 0 : 1);
  // What is another's costs half as much again.
  const { ended } = drain(queue, 2, (item, thread) => ((item < 20 ? 0 : 1) === thread ? 2 : 3));
  expect(ended).toBeLessThanOrEqual(30);
  expect(ended).toBeLessThan(20 * 2);
});

test("there is room for so many, and what nobody waits for makes room", () => {
  const queue = new JobQueue<string>(2);
  expect(queue.take(0)).toBeUndefined();
  expect([queue.put("a", 0), queue.put("b", 1), queue.put("c", 0)]).toEqual([true, true, false]);
  expect(queue.remove("a")).toBe(true);
  expect(queue.remove("a")).toBe(false);
  expect(queue.put("c", 0)).toBe(true);
  expect([queue.take(1), queue.take(1), queue.take(1)]).toEqual(["b", "c", undefined]);
});
