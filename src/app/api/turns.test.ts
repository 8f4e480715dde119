import fc from "fast-check";
import { TooManyTurns, Turns } from "./turns";

test("of each caller so many are under way, all are done, and nothing is kept of it", async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.nat(3), { maxLength: 60 }),
      fc.integer({ min: 1, max: 4 }),
      async (callers, atOnce) => {
        const turns = new Turns({ atOnce, waiting: 100 });
        const underWay = new Map<number, number>();
        const done: number[] = [];
        const work = (caller: number, i: number) => async () => {
          underWay.set(caller, (underWay.get(caller) ?? 0) + 1);
          expect(underWay.get(caller)).toBeLessThanOrEqual(atOnce);
          await Promise.resolve();
          underWay.set(caller, underWay.get(caller)! - 1);
          done.push(i);
        };
        await Promise.all(callers.map((caller, i) => turns.run(`${caller}`, work(caller, i))));
        expect(done.sort((a, b) => a - b)).toEqual([...callers.keys()]);
        expect(turns.size).toBe(0);
      },
    ),
  );
});

test("what waits beyond the limit is refused at once, and another caller is not", async () => {
  const turns = new Turns({ atOnce: 1, waiting: 1 });
  let end = () => {};
  const first = turns.run("a", () => new Promise<void>((resolve) => (end = resolve)));
  const second = turns.run("a", async () => "second");
  await expect(turns.run("a", async () => "third")).rejects.toThrow(TooManyTurns);
  await expect(turns.run("b", async () => "other")).resolves.toBe("other");
  end();
  await first;
  await expect(second).resolves.toBe("second");
});

test("work that fails hands its place on", async () => {
  const turns = new Turns({ atOnce: 1, waiting: 5 });
  const failing = turns.run("a", async () => {
    throw new Error("no");
  });
  const next = turns.run("a", async () => 1);
  await expect(failing).rejects.toThrow("no");
  await expect(next).resolves.toBe(1);
});
