import fc from "fast-check";
import { chartOf } from "./chartOf";
import { ageStroke, newestFirst, strokesOf } from "./colours";
import { apart, nameRows, spreadLabels } from "./labels";
import { isDimmed } from "./pointing/hover";
import { valueTicks } from "./ticks";

const series = (labels: Record<string, string | null>) => ({ labels, values: [], total: null });

test("labels keep their distance and their order", () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 200 }), { minLength: 1, maxLength: 6 }), (wanted) => {
      const placed = spreadLabels(wanted, 14, 0, 200);
      const order = wanted.map((y, i) => ({ y, at: placed[i] })).sort((a, b) => a.y - b.y || a.at - b.at);
      for (let i = 1; i < order.length; i++) expect(order[i].at - order[i - 1].at).toBeGreaterThanOrEqual(14 - 1e-9);
    }),
  );
});

test("names of marks never meet in a row, and the latest always has room", () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 300 }), { minLength: 1, maxLength: 20 }), (places) => {
      const rows = nameRows(places, 40, 2);
      expect(rows[places.indexOf(Math.max(...places))]).toBe(0);
      for (const row of [0, 1]) {
        const inRow = places.filter((_, i) => rows[i] === row).sort((a, b) => a - b);
        for (let i = 1; i < inRow.length; i++) expect(inRow[i] - inRow[i - 1]).toBeGreaterThanOrEqual(40);
      }
      places.forEach((place, i) => {
        if (rows[i] >= 0) return;
        for (const row of [0, 1])
          expect(places.some((other, j) => rows[j] === row && Math.abs(other - place) < 40)).toBe(true);
      });
    }),
  );
});

test("axis ticks are round, start at zero and reach the top", () => {
  fc.assert(
    fc.property(fc.double({ min: 1e-6, max: 1e9, noNaN: true }), (high) => {
      const ticks = valueTicks(0, high);
      expect(ticks[0]).toBe(0);
      expect(ticks[ticks.length - 1]).toBeGreaterThanOrEqual(high * 0.999);
      expect(ticks.length).toBeLessThan(9);
    }),
  );
  expect(valueTicks(0, 40)).toEqual([0, 10, 20, 30, 40]);
  expect(valueTicks(-5, 10)[0]).toBeLessThanOrEqual(-5);
});

test("releases take their colour by age, others by place", () => {
  const [old, fresh] = strokesOf([series({ "service.version": "1" }), series({ "service.version": "2" })], ["2", "1"]);
  expect(fresh).toEqual(ageStroke(0));
  expect(old).toEqual(ageStroke(1));
  expect(strokesOf([series({ depot: "a" }), series({ depot: "b" })], []).map(({ colour }) => colour)).toEqual([
    "var(--series-1)",
    "var(--series-2)",
  ]);
});

test("dimming goes by label values", () => {
  expect(isDimmed({ depot: "a" }, { depot: "b" })).toBe(true);
  expect(isDimmed({ depot: "a" }, { depot: "a", release: "1" })).toBe(false);
  expect(isDimmed({ queue: "x" }, { depot: "a" })).toBe(false);
});

test("marks of several services are told apart by their series, the newest first", () => {
  const marks = [
    { release: "loans 5.2.4", version: "5.2.4", at: 1 },
    { release: "loans 5.3.0", version: "5.3.0", at: 3 },
    { release: "estimator 2.0.0", version: "2.0.0", at: 2 },
  ];
  expect(newestFirst(marks)).toEqual(["5.3.0", "2.0.0", "5.2.4"]);
  expect(newestFirst([{ release: "1", at: 1 }])).toEqual(["1"]);
});

test("of thousands of marks those are drawn that have room, the latest of each bunch", () => {
  const marks = Array.from({ length: 3000 }, (_, i) => ({ at: (i * 1499) % 3000 }));
  const drawn = apart(marks, ({ at }) => at, 100);
  const places = drawn.map(({ at }) => at).sort((a, b) => b - a);
  expect(places).toEqual(Array.from({ length: 30 }, (_, i) => 2999 - 100 * i));
  expect(drawn).toEqual(marks.filter((mark) => drawn.includes(mark)));
  const few = [{ at: 1 }, { at: 500 }];
  expect(apart(few, ({ at }) => at, 100)).toEqual(few);
});

test("of very many releases the newest are drawn, of all else the largest", () => {
  const series = (label: string) =>
    Array.from({ length: 40 }, (_, i) => ({ labels: { [label]: `r${i}` }, values: [40 - i], total: 40 - i }));
  const chart = (label: string) => {
    const result = {
      reading: "p95 of x",
      unit: "s",
      share: false,
      times: [1],
      from: 0,
      to: 1,
      every: 1,
      settledTo: null,
    };
    const releases = Array.from({ length: 30 }, (_, i) => `r${i}`).reverse();
    const found = chartOf([{ text: "p95 of x", result: { ...result, series: series(label) } as never }], { releases });
    return { names: found.drawn.map(({ name }) => name), more: found.more };
  };
  expect(chart("service.version")).toEqual({ names: ["r29", "r28", "r27", "r26", "r25", "r24"], more: 34 });
  expect(chart("depot").names).toEqual(["r0", "r1", "r2", "r3", "r4", "r5"]);
});
