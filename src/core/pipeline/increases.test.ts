import fc from "fast-check";
import type { MetricIdentity } from "../metric/model";
import { Increases } from "./increases";

const BEGAN = 1_764_000_000_000;
const counter: MetricIdentity = { name: "m", kind: "sum", unit: "1", temporality: "cumulative", monotonic: true };

/** A process: when it starts, after the beginning of the step or before it, and what it adds each time it tells of it. */
const life = fc.record({
  start: fc.integer({ min: -300, max: 300 }),
  adds: fc.array(fc.nat(9), { minLength: 2, maxLength: 12 }),
  every: fc.integer({ min: 1, max: 40 }),
});

test("processes that write one series at the same time are counted each by itself, over restarts of ours", () => {
  fc.assert(
    fc.property(
      fc.uniqueArray(life, { minLength: 1, maxLength: 5, selector: ({ start }) => start }),
      fc.nat(60),
      (lives, cut) => {
        const rows = lives.flatMap(({ start, adds, every }, i) => {
          // What a process that started long ago had counted by then is no part of it.
          let total = start < 0 ? 1000 : 0;
          const began = BEGAN + start * 1000;
          const first = Math.max(began, BEGAN);
          return adds.map((add, n) => {
            total += add;
            const time = first + (n + 1) * every * 1000 + i;
            return { time, start: began, total };
          });
        });
        rows.sort((a, b) => a.time - b.time);
        let increases = new Increases(BEGAN);
        let sum = 0;
        rows.forEach(({ time, start, total }, n) => {
          if (n === cut) increases = new Increases(BEGAN, JSON.parse(JSON.stringify(increases.save())));
          const row = { time, start, amount: { kind: "number" as const, value: total, integer: true } };
          const added = increases.of("series", counter, row)?.added;
          if (added?.kind === "number") sum += added.value;
          // Sent again, it adds nothing.
          expect(increases.of("series", counter, row)).toBeNull();
        });
        const all = (amounts: readonly number[]) => amounts.reduce((a, b) => a + b, 0);
        // Of one that was there before, the first total is only a base.
        expect(sum).toBe(all(lives.map(({ start, adds }) => all(start < 0 ? adds.slice(1) : adds))));
      },
    ),
    { numRuns: 300 },
  );
});

test("a total that is late, or of a start that was replaced long ago, is not counted twice", () => {
  const increases = new Increases(BEGAN);
  const of = (time: number, start: number, value: number) =>
    increases.of("series", counter, {
      time: BEGAN + time,
      start: BEGAN + start,
      amount: { kind: "number", value, integer: true },
    });
  expect(of(10_000, 1000, 5)?.added).toMatchObject({ value: 5 });
  expect(of(20_000, 12_000, 2)?.added).toMatchObject({ value: 2 });
  // The last that the one before said, sent late: only what it had not told.
  expect(of(11_000, 1000, 6)?.added).toMatchObject({ value: 1 });
  expect(of(10_500, 1000, 6)).toBeNull();
  expect(of(30_000, 12_000, 4)?.added).toMatchObject({ value: 2 });
  expect(increases.save()[0][1].others).toHaveLength(1);
  expect(of(800_000, 12_000, 9)?.added).toMatchObject({ value: 5 });
  expect(increases.save()[0][1].others).toBeUndefined();
});

test("a total that does not say its start goes on from the one before, and the start is still known", () => {
  const increases = new Increases(BEGAN);
  const values = [
    [1000, 500, 5],
    [2000, 0, 7],
    [3000, 500, 9],
  ].map(([time, start, value]) => {
    const amount = { kind: "number" as const, value, integer: true };
    return increases.of("series", counter, { time: BEGAN + time, start: start === 0 ? 0 : BEGAN + start, amount })
      ?.added;
  });
  expect(values).toMatchObject([{ value: 5 }, { value: 2 }, { value: 2 }]);
});
