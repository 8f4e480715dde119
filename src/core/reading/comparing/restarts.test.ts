import { emptyPointSet, type Layout } from "../../metric/model";
import { restartsOf } from "./restarts";

const HOUR = 3_600_000;
const ORIGIN = 1_764_000_000_000;
const LAYOUT: Layout = { kind: "explicit", bounds: [1] };

/** Points every quarter of an hour, which count since these moments (hours). */
function series(instance: string, starts: readonly number[]) {
  const set = emptyPointSet(LAYOUT, 48);
  for (let i = 0; i < 48; i++) {
    const at = (i + 1) / 4;
    set.timeMs[i] = ORIGIN + at * HOUR;
    set.startMs[i] = ORIGIN + Math.max(starts[0], ...starts.filter((start) => start < at)) * HOUR;
  }
  return { attributes: { "service.instance.id": instance }, parts: [set] };
}

const side = (temporality: "cumulative" | "delta", ...all: ReturnType<typeof series>[]) => ({
  source: {
    metrics: [
      {
        identity: { name: "m", kind: "histogram" as const, unit: "s", temporality, monotonic: true },
        series: all,
        points: 1,
      },
    ],
    earliest: ORIGIN,
    resolutions: [0],
    warnings: [],
  },
  bounds: Float64Array.of(ORIGIN, ORIGIN + 12 * HOUR),
});

test("a count that begins anew is a process that did; series of one process begin when they are first counted", () => {
  // One starts again at 7 h and 11 h, seen by two series of which one is counted late; the other goes on all the time.
  const found = restartsOf(
    side("cumulative", series("a", [-1, 7, 11]), series("a", [-0.5, 7.2]), series("b", [-3]), series("b", [-2])),
  );
  expect(found).toEqual({ count: 2, hours: 24 });
});

test("an instance that came late counts for the time that it ran, and not for the whole window", () => {
  const late = series("late", [8, 10]);
  const [set] = late.parts;
  // Its points before it began are none.
  for (let i = 0; i < 32; i++) set.startMs[i] = 0;
  const found = restartsOf(side("cumulative", late));
  expect(found?.count).toBe(1);
  expect(found?.hours).toBeCloseTo(4, 9);
});

test("the first start of an instance is none, and differences have none to tell", () => {
  expect(restartsOf(side("cumulative", series("a", [0])))).toEqual({ count: 0, hours: 12 });
  expect(restartsOf(side("delta", series("a", [0, 7])))).toBeNull();
});
