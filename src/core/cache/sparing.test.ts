import { Sparing } from "./sparing";

function sparing(most = 10) {
  const clock = { now: 0 };
  return { clock, cache: new Sparing(50, 20_000, most, () => clock.now) };
}

/** Work that takes so long on a clock, and how often it was done. */
function work(clock: { now: number }, took: number) {
  const done = { times: 0 };
  return {
    done,
    run: async () => {
      clock.now += took;
      return ++done.times;
    },
  };
}

test("an answer is kept in proportion to what it took, and no longer than the longest", async () => {
  const { clock, cache } = sparing();
  const quick = work(clock, 10);
  expect(await cache.answer("quick", quick.run)).toBe(1);
  clock.now += 499;
  expect(await cache.answer("quick", quick.run)).toBe(1);
  clock.now += 2;
  expect(await cache.answer("quick", quick.run)).toBe(2);
  const slow = work(clock, 5000);
  await cache.answer("slow", slow.run);
  clock.now += 19_999;
  expect(await cache.answer("slow", slow.run)).toBe(1);
  clock.now += 2;
  expect(await cache.answer("slow", slow.run)).toBe(2);
});

test("who asks while it is worked out waits for the same one; keys are apart", async () => {
  const { clock, cache } = sparing();
  const one = work(clock, 10);
  expect(await Promise.all([1, 2, 3].map(() => cache.answer("a", one.run)))).toEqual([1, 1, 1]);
  expect(await cache.answer("b", one.run)).toBe(2);
});

test("what fails is not kept, and after a change nothing is", async () => {
  const { clock, cache } = sparing();
  await expect(cache.answer("a", async () => Promise.reject(new Error("away")))).rejects.toThrow("away");
  const one = work(clock, 10);
  expect(await cache.answer("a", one.run)).toBe(1);
  cache.clear();
  expect(await cache.answer("a", one.run)).toBe(2);
});

test("an answer begun before a change is not given to who asks after it", async () => {
  const { clock, cache } = sparing();
  let release: (value: string) => void = () => {};
  const before = cache.answer("a", () => new Promise<string>((resolve) => (release = resolve)));
  cache.clear();
  const after = cache.answer("a", async () => {
    clock.now += 10;
    return "new";
  });
  release("old");
  expect(await before).toBe("old");
  expect(await after).toBe("new");
  expect(await cache.answer("a", async () => "newer")).toBe("new");
});

test("work that does not end holds nobody up for longer than the longest, and what is old is taken away", async () => {
  const { clock, cache } = sparing();
  void cache.answer("a", () => new Promise<string>(() => {}));
  clock.now += 20_001;
  expect(await cache.answer("a", async () => "new")).toBe("new");
  const one = work(clock, 10);
  await cache.answer("b", one.run);
  clock.now += 501;
  await cache.answer("c", one.run);
  expect(cache.size).toBe(1);
});

test("no more are kept than may be", async () => {
  const { clock, cache } = sparing(2);
  const one = work(clock, 10);
  for (const key of ["a", "b", "c"]) await cache.answer(key, one.run);
  expect(await cache.answer("b", one.run)).toBe(2);
  expect(await cache.answer("a", one.run)).toBe(4);
});
