import fc from "fast-check";
import { type Attributes, FLAG } from "../metric/model";
import { Batch } from "./batch/batch";
import { Dictionary, type KnownSeries } from "./dictionary";
import { Numbers } from "./numbers";
import { Overflow } from "./overflow";

const BEGAN = 1_764_000_000_000;

function seriesOf(dictionary: Dictionary, kind: "sum" | "histogram" | "gauge", temporality: "delta" | "cumulative") {
  const metric = dictionary.metric(
    { name: "door.opened", kind, unit: "{door}", temporality, monotonic: kind !== "gauge" },
    "",
  );
  return (attributes: Attributes): KnownSeries => {
    const resource = { "service.name": "lockers", "service.version": "3.2", "host.name": String(attributes.id) };
    const series = dictionary.series(metric, { resource, scope: { name: "", version: "" }, attributes });
    series.overflowed = true;
    return series;
  };
}

function head(timeMs: number, startMs: number) {
  return { timeMs, timeNs: 0, startMs, startNs: 0, flags: 0 };
}

/** Puts points through an overflow, a batch per list; each is noted as written. */
function through(overflow: Overflow, batches: readonly Batch[]) {
  let last: ReturnType<Overflow["absorb"]>["sums"] = [];
  const refused: string[] = [];
  for (const batch of batches) {
    const { sums, apply } = overflow.absorb(batch.overflowed(), (_, reason) => refused.push(reason));
    apply();
    if (sums.length > 0) last = sums;
  }
  return { points: last.map((sum) => overflow.pointOf(sum)), sums: last, refused };
}

test("what many cumulative series add is what the overflow series adds, restarts and repeats included", () => {
  const steps = fc.array(
    fc.array(fc.record({ id: fc.nat(5), more: fc.nat(9), restarts: fc.nat(8) }), { maxLength: 8 }),
    { minLength: 1, maxLength: 12 },
  );
  fc.assert(
    fc.property(steps, fc.boolean(), (found, again) => {
      const dictionary = new Dictionary();
      const series = seriesOf(dictionary, "sum", "cumulative");
      const overflow = new Overflow(dictionary, BEGAN, "test");
      const levels = new Map<number, { value: number; start: number }>();
      let truth = 0;
      const batches = found.flatMap((points, step) => {
        const batch = new Batch();
        const time = BEGAN + (step + 1) * 1000;
        for (const { id, more, restarts } of new Map(points.map((point) => [point.id, point])).values()) {
          const level = levels.get(id) ?? { value: 0, start: BEGAN + 1 };
          if (restarts === 0) Object.assign(level, { value: 0, start: time - 500 });
          level.value += more;
          truth += more;
          levels.set(id, level);
          batch.number(series({ id }), head(time, level.start), level.value);
        }
        return again ? [batch, batch] : [batch];
      });
      const { points, refused } = through(overflow, batches);
      expect(refused).toEqual([]);
      expect(points.reduce((sum, { columns }) => sum + columns[0][0], 0)).toBe(truth);
    }),
  );
});

test("it keeps service and release, and gives up what made the series too many", () => {
  const dictionary = new Dictionary();
  const series = seriesOf(dictionary, "sum", "delta");
  const batch = new Batch();
  batch.number(series({ id: 1 }), head(BEGAN + 5000, BEGAN + 4000), 3);
  batch.number(series({ id: 2 }), head(BEGAN + 6000, BEGAN + 4000), 4);
  const { sums } = through(new Overflow(dictionary, BEGAN, "test"), [batch]);
  expect(sums).toHaveLength(1);
  expect(sums[0].series.identity).toMatchObject({
    attributes: { "otel.metric.overflow": true },
    resource: { "service.name": "lockers", "service.version": "3.2", "service.instance.id": "test" },
  });
  expect(sums[0]).toMatchObject({ timeMs: BEGAN + 6000 });
  expect(sums[0].values[0]).toBe(7);
});

test("a series that counted before this process began gives a base first", () => {
  const dictionary = new Dictionary();
  const series = seriesOf(dictionary, "sum", "cumulative");
  const batches = [100, 130].map((value, i) => {
    const batch = new Batch();
    batch.number(series({ id: 1 }), head(BEGAN + (i + 1) * 1000, BEGAN - 50_000), value);
    return batch;
  });
  expect(through(new Overflow(dictionary, BEGAN, "test"), batches).points[0].columns[0][0]).toBe(30);
});

test("histograms add up by bucket; other buckets and gauges are refused with a reason", () => {
  const dictionary = new Dictionary();
  const series = seriesOf(dictionary, "histogram", "delta");
  const put = (batch: Batch, id: number, bounds: number[], counts: number[]) =>
    batch.explicit(
      series({ id }),
      head(BEGAN + 1000, BEGAN),
      { count: counts.reduce((a, b) => a + b, 0), sum: 5, min: 1, max: 3 },
      Numbers.of(bounds),
      Numbers.of(counts),
    );
  const batch = new Batch();
  put(batch, 1, [2], [4, 1]);
  put(batch, 2, [2], [1, 1]);
  put(batch, 3, [7], [1, 1]);
  const overflow = new Overflow(dictionary, BEGAN, "test");
  const { points, refused } = through(overflow, [batch]);
  expect(points[0].columns.map(([value]) => value)).toEqual([5, 2, 0, 0, 10]);
  expect(refused).toEqual(["its buckets differ from those of the overflow series"]);
  const gauges = new Batch();
  gauges.number(seriesOf(dictionary, "gauge", "cumulative")({ id: 1 }), head(BEGAN + 1000, 0), 3);
  expect(through(overflow, [gauges]).refused).toEqual(["series past the limit of a gauge cannot be added up"]);
});

test("nothing holds before it is noted as written", () => {
  const dictionary = new Dictionary();
  const series = seriesOf(dictionary, "sum", "delta");
  const overflow = new Overflow(dictionary, BEGAN, "test");
  const batch = new Batch();
  batch.number(series({ id: 1 }), head(BEGAN + 1000, BEGAN), 3);
  for (let attempt = 0; attempt < 3; attempt++) {
    const { sums } = overflow.absorb(batch.overflowed(), () => {});
    expect(sums[0].values[0]).toBe(3);
  }
});

test("what leaves the overflow series is told once: by it up to then, by itself after", () => {
  const step = fc.record({ more: fc.nat(9), rest: fc.boolean() });
  fc.assert(
    fc.property(
      fc.array(step, { minLength: 1, maxLength: 8 }),
      fc.array(step, { minLength: 1, maxLength: 8 }),
      (in1, out) => {
        const dictionary = new Dictionary();
        const one = seriesOf(dictionary, "sum", "cumulative")({ id: 1 });
        const overflow = new Overflow(dictionary, BEGAN, "test");
        let value = 0;
        let time = BEGAN;
        const batchOf = ({ more }: { more: number }) => {
          value += more;
          time += 1000;
          const batch = new Batch();
          batch.number(one, head(time, BEGAN + 1), value);
          return batch;
        };
        let sum = 0;
        const absorb = (batch: Batch) => {
          const { points } = through(overflow, [batch]);
          if (points.length > 0) sum = points[0].columns[0][0];
        };
        for (const found of in1) absorb(batchOf(found));
        // There is room for it: its next point goes both ways, as a base to itself.
        one.overflowed = false;
        one.resumes = true;
        one.id = 7;
        const own: { value: number; base: boolean }[] = [];
        out.forEach((found, i) => {
          const batch = batchOf(found);
          absorb(batch);
          for (const { sets } of batch.pointSets(() => false))
            for (const set of sets)
              for (let row = 0; row < set.count; row++)
                own.push({ value: set.columns[0][row], base: (set.flags[row] & FLAG.resumed) !== 0 });
          if (i === 0) {
            one.resumes = false;
            overflow.forget(one);
          }
        });
        expect(own.map(({ base }) => base)).toEqual(out.map((_, i) => i === 0));
        const rise = own[own.length - 1].value - own[0].value;
        expect(sum + rise).toBe(value);
        expect(overflow.size.watched).toBe(0);
      },
    ),
  );
});

test("what is silent for an hour makes room, and is not counted twice when it comes back", () => {
  let now = BEGAN;
  const dictionary = new Dictionary();
  const series = seriesOf(dictionary, "sum", "cumulative");
  const overflow = new Overflow(dictionary, BEGAN, "test", 3, () => now);
  const send = (id: number, at: number, value: number, start = BEGAN + 1) => {
    const batch = new Batch();
    batch.number(series({ id }), head(at, start), value);
    return through(overflow, [batch]);
  };
  for (const id of [1, 2, 3]) expect(send(id, BEGAN + 1000, 10).refused).toEqual([]);
  expect(send(4, BEGAN + 2000, 10).refused).toEqual(["too many series are past the limit"]);
  now += 3_600_000;
  expect(send(4, BEGAN + 3_600_000, 5, BEGAN + 3_599_000).refused).toEqual([]);
  expect(overflow.size.watched).toBe(1);
  // It counts from before it was let go: only what it adds from here on is known to be new.
  expect(send(1, BEGAN + 3_601_000, 12).points[0].columns[0][0]).toBe(35);
  expect(send(1, BEGAN + 3_602_000, 15).points[0].columns[0][0]).toBe(38);
});
