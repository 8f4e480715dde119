import fc from "fast-check";
import { heldSeries, readHeld } from "../reading/offline";
import { Absences } from "./absences";
import { Batch } from "./batch/batch";
import { Dictionary, type KnownSeries } from "./dictionary";
import { Numbers } from "./numbers";

const ORIGIN = 1_764_000_000_000;
/** When the processes here began: long before any window. */
const START = ORIGIN - 10 * 24 * 3_600_000;
const SCOPE = { name: "", version: "" };
const COUNTER = { name: "calls", kind: "sum", unit: "{call}", temporality: "cumulative", monotonic: true } as const;

interface Point {
  of: string;
  value: number;
  start?: number;
}

/** A process that reports, and an intake that hears it. */
class Heard {
  readonly dictionary = new Dictionary();
  readonly absences = new Absences(this.dictionary);
  readonly all: Batch[] = [];

  series(of: string, instance: string | null = "a"): KnownSeries {
    const metric = this.dictionary.metric(COUNTER, "");
    // As JSON gives it: an object of its own in each request.
    const resource = { "service.name": "loans", ...(instance !== null && { "service.instance.id": instance }) };
    return this.dictionary.series(metric, { resource, scope: SCOPE, attributes: { of } });
  }

  batch(at: number, points: readonly Point[], instance: string | null = "a"): Batch {
    const batch = new Batch();
    for (const { of, value, start = START } of points)
      batch.number(
        this.series(of, instance),
        { timeMs: at, timeNs: 0, startMs: start, startNs: 0, flags: start === 0 ? 0 : 2 },
        value,
      );
    return batch;
  }

  /** @returns what was added, as [series, time] */
  report(at: number, points: readonly Point[], instance: string | null = "a", taken = true): [string, number][] {
    const batch = this.batch(at, points, instance);
    const before = batch.points;
    const durable = this.absences.fill(batch);
    if (taken) durable();
    this.all.push(batch);
    const added: [string, number][] = [];
    const { all, sets } = batch.inColumns();
    for (const { set } of sets)
      for (let row = 0; row < set.count; row++)
        if (set.flags[row] & 64) added.push([String(all[set.series[row]].identity.attributes.of), set.timeMs[row]]);
    expect(batch.points).toBe(before + added.length);
    expect(batch.sent().points).toBe(before);
    return added;
  }
}

const ok = (value: number, start?: number): Point => ({ of: "ok", value, ...(start !== undefined && { start }) });
const failed = (value: number, start?: number): Point => ({
  of: "failed",
  value,
  ...(start !== undefined && { start }),
});

test("a series that its process did not report before stood at nothing then", () => {
  const heard = new Heard();
  expect(heard.report(ORIGIN, [ok(100)])).toEqual([]);
  expect(heard.report(ORIGIN + 15_000, [ok(110)])).toEqual([]);
  expect(heard.report(ORIGIN + 30_000, [ok(120), failed(1)])).toEqual([["failed", ORIGIN + 15_000]]);
  expect(heard.report(ORIGIN + 45_000, [ok(130), failed(3)])).toEqual([]);
  const span = { from: ORIGIN + 15_000, to: ORIGIN + 45_000 };
  const answer = readHeld(
    "count of calls by of every 15s",
    heldSeries(heard.all),
    { ...span, zone: "UTC", every: null, picks: {} },
    ORIGIN,
  );
  const values = Object.fromEntries(answer.series.map(({ labels, values }) => [labels.of, values]));
  expect(values).toEqual({ ok: [10, 10], failed: [1, 2] });
});

test("histograms stand at nothing on their own buckets", () => {
  const heard = new Heard();
  const metric = heard.dictionary.metric(
    { name: "took", kind: "histogram", unit: "s", temporality: "cumulative", monotonic: true },
    "",
  );
  const report = (at: number, values: Record<string, number>) => {
    const batch = new Batch();
    for (const [of, value] of Object.entries(values)) {
      const series = heard.dictionary.series(metric, {
        resource: { "service.name": "loans", "service.instance.id": "a" },
        scope: SCOPE,
        attributes: { of },
      });
      const point = { count: value, sum: value * 0.2, min: 0.2, max: 0.2 };
      batch.explicit(
        series,
        { timeMs: at, timeNs: 5, startMs: START, startNs: 7, flags: 0 },
        point,
        Numbers.of([0.1, 0.5]),
        Numbers.of([0, value, 0]),
      );
    }
    heard.absences.fill(batch)();
    heard.all.push(batch);
  };
  report(ORIGIN, { ok: 100 });
  report(ORIGIN + 15_000, { ok: 110 });
  report(ORIGIN + 30_000, { ok: 120, failed: 4 });
  const span = { from: ORIGIN + 15_001, to: ORIGIN + 31_000 };
  const read = (text: string) =>
    Object.fromEntries(
      readHeld(text, heldSeries(heard.all), { ...span, zone: "UTC", every: null, picks: {} }, ORIGIN).series.map(
        (one) => [one.labels.of, one.total],
      ),
    );
  expect(read("count of took by of")).toEqual({ ok: expect.closeTo(10, 2), failed: expect.closeTo(4, 2) });
  expect(read("sum of took by of").failed).toBeCloseTo(0.8, 2);
});

test("nothing is said where it is not sure", () => {
  const twice = (heard: Heard, instance: string | null = "a", start = START) => {
    heard.report(ORIGIN, [ok(100, start)], instance);
    heard.report(ORIGIN + 15_000, [ok(110, start)], instance);
  };
  const third = ORIGIN + 30_000;
  const first = new Heard();
  first.report(ORIGIN, [ok(100)]);
  // One report may have been a part.
  expect(first.report(ORIGIN + 15_000, [ok(110), failed(1)])).toEqual([]);

  const alone = new Heard();
  twice(alone);
  // Alone it may be the rest of a report.
  expect(alone.report(third, [failed(1)])).toEqual([]);

  const other = new Heard();
  twice(other);
  // Another process of the same name.
  expect(other.report(third, [ok(120), failed(7, START - 1)])).toEqual([]);

  const young = new Heard();
  twice(young);
  // Its start says it better.
  expect(young.report(third, [ok(120), failed(1, third - 1000)])).toEqual([]);

  const same = new Heard();
  twice(same);
  // A part of the report before.
  expect(same.report(ORIGIN + 15_000, [ok(110), failed(1)])).toEqual([]);

  const nameless = new Heard();
  twice(nameless, null, 0);
  // Without start or instance, two processes look like one.
  expect(nameless.report(third, [ok(120, 0), failed(1, 0)], null)).toEqual([]);

  const unnamed = new Heard();
  twice(unnamed, null);
  expect(unnamed.report(third, [ok(120), failed(1)], null)).toEqual([]);

  const named = new Heard();
  twice(named, "a", 0);
  expect(named.report(third, [ok(120, 0), failed(1, 0)])).toEqual([["failed", ORIGIN + 15_000]]);

  const refused = new Heard();
  twice(refused);
  const strict = new Batch({ surelyFrom: third, from: () => third, to: third, environment: null });
  strict.number(refused.series("failed"), { timeMs: ORIGIN, timeNs: 0, startMs: START, startNs: 0, flags: 0 }, 1);
  expect(strict.rejected).toBe(1);
  // It was there, and was not taken.
  expect(refused.report(third, [ok(120), failed(1)])).toEqual([]);

  const elsewhere = new Heard();
  twice(elsewhere);
  expect(elsewhere.report(third, [ok(120), failed(1)], "b")).toEqual([]);

  const upheld = new Heard();
  twice(upheld);
  // 110 calls in ten days do not make ten thousand in a quarter of a minute: it was kept back somewhere on the way.
  expect(upheld.report(third, [ok(120), failed(10_000)])).toEqual([]);

  const full = new Heard();
  twice(full);
  full.dictionary.trim();
  full.dictionary.size = Number.POSITIVE_INFINITY;
  full.dictionary.trim();
  // What is forgotten would be new again.
  expect(full.report(third, [ok(120), failed(1)])).toEqual([]);
});

test("points of several moments, or of fewer series than before, are no whole report", () => {
  const twice = (last: readonly Point[]) => {
    const heard = new Heard();
    heard.report(ORIGIN, [ok(100)]);
    heard.report(ORIGIN + 15_000, last);
    return heard;
  };
  const other: Point = { of: "other", value: 7 };
  expect(twice([ok(110), other]).report(ORIGIN + 30_000, [ok(120), failed(1)])).toEqual([]);
  expect(twice([ok(110), other]).report(ORIGIN + 30_000, [ok(120), other, failed(1)])).toHaveLength(1);
  const heard = twice([ok(110)]);
  const batch = heard.batch(ORIGIN + 30_000, [ok(120), failed(1)]);
  batch.append(heard.batch(ORIGIN + 31_000, [failed(2)]));
  heard.absences.fill(batch)();
  expect(batch.points).toBe(3);
});

test("a series whose layout is refused was there all the same", () => {
  const dictionary = new Dictionary();
  const absences = new Absences(dictionary);
  const metric = dictionary.metric({ ...COUNTER, name: "took", kind: "histogram", unit: "s" }, "");
  const resource = { "service.name": "loans", "service.instance.id": "a" };
  const report = (at: number, failed: Numbers | null) => {
    const batch = new Batch();
    const add = (of: string, bounds: Numbers) => {
      const series = dictionary.series(metric, { resource, scope: SCOPE, attributes: { of } });
      const head = { timeMs: at, timeNs: 0, startMs: START, startNs: 0, flags: 0 };
      batch.explicit(series, head, { count: 0, sum: 0, min: 0, max: 0 }, bounds, Numbers.of([]));
    };
    add("ok", Numbers.of([]));
    if (failed) add("failed", failed);
    const before = batch.points;
    absences.fill(batch)();
    return { added: batch.points - before, rejected: batch.rejected };
  };
  report(ORIGIN, null);
  const many = Numbers.of(Array.from({ length: 100_000 }, (_, i) => i));
  expect(report(ORIGIN + 15_000, many)).toEqual({ added: 0, rejected: 1 });
  expect(report(ORIGIN + 30_000, Numbers.of([]))).toEqual({ added: 0, rejected: 0 });
});

test("what could not be written is as new when it is sent again", () => {
  const heard = new Heard();
  heard.report(ORIGIN, [ok(100)]);
  heard.report(ORIGIN + 15_000, [ok(110)]);
  for (const taken of [false, true])
    expect(heard.report(ORIGIN + 30_000, [ok(120), failed(1)], "a", taken)).toEqual([["failed", ORIGIN + 15_000]]);
  expect(heard.report(ORIGIN + 30_000, [ok(120), failed(1)])).toEqual([]);
});

test("what a process that began anew has not told yet stands at nothing again, whatever the store knows", () => {
  const heard = new Heard();
  heard.report(ORIGIN, [ok(100), failed(3)]);
  heard.report(ORIGIN + 15_000, [ok(110), failed(4)]);
  const anew = ORIGIN + 20_000;
  expect(heard.report(ORIGIN + 30_000, [ok(2, anew)])).toEqual([]);
  expect(heard.report(ORIGIN + 45_000, [ok(3, anew)])).toEqual([]);
  expect(heard.report(ORIGIN + 60_000, [ok(5, anew), failed(1, anew)])).toEqual([["failed", ORIGIN + 45_000]]);
  const last = heard.all[4].pointSets(() => false).flatMap(({ sets }) => sets);
  expect(last.map(({ count }) => count)).toEqual([3]);
  expect([...last[0].flags].every((flag) => flag < 64)).toBe(true);
  const span = { from: ORIGIN + 45_000, to: ORIGIN + 60_000, every: 15_000, zone: "UTC", picks: {} };
  const { series } = readHeld('count of calls where of is "failed"', heldSeries(heard.all), span, ORIGIN);
  expect(series[0].values).toEqual([1]);
});

test("the store takes it only of series that it never heard of", () => {
  const heard = new Heard();
  heard.report(ORIGIN, [ok(100)]);
  heard.report(ORIGIN + 15_000, [ok(110)]);
  heard.report(ORIGIN + 30_000, [ok(120), failed(1)]);
  const batch = heard.all[2];
  const points = (isNew: boolean) => batch.pointSets(() => isNew).flatMap(({ sets }) => sets);
  expect(points(true).map(({ count }) => count)).toEqual([3]);
  expect(points(false).map(({ count }) => count)).toEqual([2]);
  // What is kept of it is a point like any other.
  for (const isNew of [true, false])
    for (const { flags } of points(isNew)) expect([...flags].every((one) => one < 64)).toBe(true);
});

test("whatever is counted when, every window after the second report has all of it", () => {
  /** Before which report the process begins anew; mostly never. */
  const restarts = fc.oneof(fc.constant(99), fc.integer({ min: 4, max: 8 }));
  const events = fc.array(
    fc.record({ of: fc.constantFrom("b", "c", "d", "e"), report: fc.integer({ min: 3, max: 12 }) }),
    {
      maxLength: 40,
    },
  );
  fc.assert(
    fc.property(events, fc.integer({ min: 2, max: 12 }), restarts, fc.boolean(), (all, from, restart, unnamed) => {
      // Where no start is named, a restart shows only in what falls.
      if (unnamed && restart < 99) return;
      const heard = new Heard();
      const start = unnamed ? 0 : START;
      const at = (report: number) => ORIGIN + report * 15_000;
      for (let report = 1; report <= 12; report++) {
        const again = report >= restart;
        const own = again ? at(restart) - 1 : start;
        const points: Point[] = [{ of: "a", value: again ? report - restart + 1 : 1000 + report, start: own }];
        for (const name of ["b", "c", "d", "e"]) {
          const value = all.filter(
            (one) => one.of === name && one.report <= report && (!again || one.report >= restart),
          );
          if (value.length > 0) points.push({ of: name, value: value.length, start: own });
        }
        heard.report(at(report), points);
      }
      // What a process tells for the first time in its second report is as old as the process.
      const young = new Set<string>(all.filter((one) => one.report === restart + 1).map(({ of }) => of));
      const span = { from: at(from), to: at(13), zone: "UTC", every: null, picks: {} };
      // What was read begins with the window: nothing before it is known.
      const held = heldSeries(heard.all);
      const { series } = readHeld("count of calls by of", held, span, at(from));
      for (const name of ["b", "c", "d", "e"]) {
        if (young.has(name)) continue;
        const total = series.find(({ labels }) => labels.of === name)?.total ?? 0;
        expect(total ?? 0).toBeCloseTo(all.filter((one) => one.of === name && one.report > from).length, 9);
      }
    }),
  );
});
