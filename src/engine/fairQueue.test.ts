import fc from "fast-check";
import { FairQueue } from "./fairQueue";
import { Usage } from "./usage";

const ALL = () => true;
const EQUAL = () => 0;

function drain(queue: FairQueue<number>, threads: number, costOf: (item: number, thread: number) => number) {
  const free = Array.from({ length: threads }, () => 0);
  const taken: { item: number; thread: number; at: number }[] = [];
  while (queue.size > 0) {
    const at = Math.min(...free);
    const thread = free.indexOf(at);
    const item = queue.take(thread, EQUAL, ALL)!;
    taken.push({ item, thread, at });
    free[thread] = at + costOf(item, thread);
  }
  return { taken, ended: Math.max(...free) };
}

test("of one caller each item is taken once, and by its own thread unless that has others to do", () => {
  fc.assert(
    fc.property(fc.array(fc.nat(2), { maxLength: 60 }), fc.integer({ min: 1, max: 3 }), (homes, threads) => {
      const queue = new FairQueue<number>({ all: 100, caller: 100 });
      for (const [item, home] of homes.entries()) queue.put(item, { caller: "one", home: home % threads });
      const left = new Set(homes.keys());
      for (const { item, thread } of drain(queue, threads, () => 1).taken) {
        const oldestOf = (wanted: (home: number) => boolean) => [...left].find((one) => wanted(homes[one] % threads));
        expect(item).toBe(oldestOf((home) => home === thread) ?? oldestOf(() => true));
        left.delete(item);
      }
      expect(left.size).toBe(0);
    }),
  );
});

test("no thread stands idle while another has more to do than one item", () => {
  const queue = new FairQueue<number>({ all: 100, caller: 100 });
  for (let item = 0; item < 24; item++) queue.put(item, { caller: "one", home: item < 20 ? 0 : 1 });
  // What is another's costs half as much again.
  const { ended } = drain(queue, 2, (item, thread) => ((item < 20 ? 0 : 1) === thread ? 2 : 3));
  expect(ended).toBeLessThanOrEqual(30);
});

test("whoever used least is next, however many items others put before", () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 1, max: 30 }), { minLength: 2, maxLength: 5 }), (counts) => {
      const queue = new FairQueue<string>({ all: 1000, caller: 1000 });
      const usage = new Usage();
      counts.forEach((count, c) => {
        for (let i = 0; i < count; i++) queue.put(`${c}`, { caller: `${c}`, home: 0 });
      });
      const served = counts.map(() => 0);
      while (queue.size > 0) {
        const caller = queue.take(0, (one) => usage.of(one, 0), ALL)!;
        usage.add(caller, 100, 0);
        served[Number(caller)]++;
        // Nobody who still waits is more than one item behind anybody else.
        counts.forEach((count, c) => {
          if (served[c] < count) expect(Math.max(...served) - served[c]).toBeLessThanOrEqual(1);
        });
      }
      expect(served).toEqual(counts);
    }),
  );
});

test("a caller who may not be worked for now is passed over and keeps the place", () => {
  const queue = new FairQueue<string>({ all: 10, caller: 10 });
  queue.put("heavy", { caller: "a", home: 0 });
  queue.put("light", { caller: "b", home: 0 });
  expect(queue.take(0, EQUAL, (caller) => caller !== "a")).toBe("light");
  expect(queue.take(0, EQUAL, (caller) => caller !== "a")).toBeUndefined();
  expect(queue.take(0, EQUAL, ALL)).toBe("heavy");
});

test("there is room for so many of one caller and of all, and what nobody waits for makes room", () => {
  const queue = new FairQueue<string>({ all: 3, caller: 2 });
  const put = (item: string, caller: string) => queue.put(item, { caller, home: 0 });
  expect([put("a", "x"), put("b", "x"), put("c", "x"), put("d", "y"), put("e", "z")]).toEqual([
    null,
    null,
    "caller",
    null,
    "all",
  ]);
  expect(queue.remove("a")).toBe(true);
  expect(queue.remove("a")).toBe(false);
  expect(put("c", "x")).toBeNull();
});

test("what was used is half as much after ten seconds, and forgotten after long", () => {
  const usage = new Usage();
  usage.add("a", 800, 0);
  expect(usage.of("a", 10_000)).toBeCloseTo(400, 6);
  usage.add("a", 100, 20_000);
  expect(usage.of("a", 20_000)).toBeCloseTo(300, 6);
  usage.add("b", 1, 200_000);
  expect(usage.of("a", 200_000)).toBe(0);
});
