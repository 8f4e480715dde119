import { emptyPointSet, FLAG, type PointSet, type Temporality } from "../metric/model";
import { FallWatch } from "./falls";

function fallsOf(sets: readonly PointSet[], temporality: Temporality) {
  const watch = new FallWatch(temporality);
  watch.add(sets);
  return watch.since(0);
}

function setOf(rows: [series: number, time: number, start: number, value: number, flags?: number][]) {
  const set = emptyPointSet({ kind: "number" }, rows.length);
  rows.forEach(([series, time, start, value, flags = 0], i) => {
    set.series[i] = series;
    set.timeMs[i] = time;
    set.startMs[i] = start;
    set.flags[i] = flags;
    set.columns[0][i] = value;
  });
  return set;
}

test("a fall inside one start is told; a reset, and an unknown start, are not", () => {
  const sets = [
    setOf([
      [1, 10, 5, 100],
      [1, 20, 5, 90],
      [1, 30, 25, 3],
    ]),
    setOf([
      [2, 10, 0, 50],
      [2, 20, 0, 1],
      [3, 10, 5, 7],
      [3, 20, 5, 0, FLAG.noRecordedValue],
      [3, 30, 5, 8],
    ]),
  ];
  expect(fallsOf(sets, "cumulative")).toEqual([{ series: 1, time: 20, by: 10 }]);
});

test("points out of order and over several sets are put in order first", () => {
  const sets = [setOf([[1, 30, 5, 30]]), setOf([[1, 10, 5, 10]]), setOf([[1, 20, 5, 20]])];
  expect(fallsOf(sets, "cumulative")).toEqual([]);
});

test("a delta must not be negative", () => {
  expect(fallsOf([setOf([[1, 10, 5, -4]])], "delta")).toEqual([{ series: 1, time: 10, by: 4 }]);
});

test("a watch remembers where it stood, and forgets what is long past", () => {
  const watch = new FallWatch("cumulative");
  watch.add([setOf([[1, 10, 5, 100]])]);
  watch.add([
    setOf([
      [1, 10, 5, 100],
      [1, 20, 5, 60],
    ]),
  ]);
  // Looked at again, and late: neither is a second fall.
  watch.add([
    setOf([
      [1, 20, 5, 60],
      [1, 15, 5, 90],
    ]),
  ]);
  expect(watch.since(0)).toEqual([{ series: 1, time: 20, by: 40 }]);
  expect(watch.since(21)).toEqual([]);
  watch.add([setOf([[1, 30, 5, 10]])]);
  expect(watch.since(0)).toEqual([]);
});
