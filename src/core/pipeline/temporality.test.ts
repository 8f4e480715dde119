import fc from "fast-check";
import { FLAG } from "../metric/model";
import { Absences } from "../otlp/absences";
import { Batch } from "../otlp/batch/batch";
import { Dictionary, type KnownSeries } from "../otlp/dictionary";
import { heldSeries, readHeld } from "../reading/offline";
import { Increases, seriesText } from "./increases";
import { TemporalityChange, type TemporalityState, type WantedTemporality } from "./temporality";
import { WindowedAggregation } from "./windowed";

const ORIGIN = 1_764_000_000_000;
const RESOURCE = { "service.name": "loans" };

/** Increments of one counter, each a second after the one before; a restart begins it anew. */
interface Increment {
  add: number;
  restart: boolean;
}

const increments = fc.array(fc.record({ add: fc.nat(50), restart: fc.boolean() }), { minLength: 1, maxLength: 25 });

/** Batches of one point each, of a counter and of a histogram with the same counts. */
function batches(all: readonly Increment[], temporality: WantedTemporality, dictionary: Dictionary): Batch[] {
  let total = 0;
  let start = ORIGIN;
  const identity = { unit: "{loan}", temporality, monotonic: true } as const;
  const counter = dictionary.metric({ ...identity, name: "loan.reserved", kind: "sum" }, "");
  const histogram = dictionary.metric({ ...identity, name: "loan.deposit", kind: "histogram" }, "");
  const who = { resource: RESOURCE, scope: { name: "", version: "" }, attributes: { depot: "Brindle" } };
  return all.map(({ add, restart }, i) => {
    const time = ORIGIN + (i + 1) * 1000;
    if (restart) {
      total = 0;
      start = time - 1000;
    }
    total += add;
    const delta = temporality === "delta";
    const value = delta ? add : total;
    const head = { timeMs: time, timeNs: 0, startMs: delta ? time - 1000 : start, startNs: 0 };
    const batch = new Batch();
    batch.number(dictionary.series(counter, who), { ...head, flags: FLAG.integer }, value);
    const layout = { kind: "explicit", bounds: [1] } as const;
    const flags = FLAG.noMin | FLAG.noMax;
    batch.addPoint(histogram, layout, dictionary.series(histogram, who), { ...head, flags }, [value, 0, 0, 0, value]);
    return batch;
  });
}

function counted(all: readonly Batch[], metric: string): number {
  const [from, to] = [ORIGIN, ORIGIN + 60_000];
  const asked = { from, to, every: 60_000, zone: "UTC", picks: {} };
  const { series } = readHeld(`count of ${metric}`, heldSeries(all), asked, from);
  return series[0]?.total ?? 0;
}

test.each<[WantedTemporality, WantedTemporality]>([
  ["cumulative", "delta"],
  ["delta", "cumulative"],
  ["delta", "delta"],
  ["cumulative", "cumulative"],
])("from %s to %s: as much is counted as before, over restarts and when taken up again", (from, to) => {
  fc.assert(
    fc.property(increments, fc.nat(24), (all, stop) => {
      const dictionary = new Dictionary();
      let saved: TemporalityState | undefined;
      const out: Batch[] = [];
      batches(all, from, dictionary).forEach((batch, i) => {
        let change = new TemporalityChange(to, ORIGIN, saved);
        // Its memory goes over a restart of the process.
        if (i === stop) change = new TemporalityChange(to, 0, JSON.parse(JSON.stringify(change.save())));
        out.push(change.change(batch, dictionary));
        saved = change.save();
      });
      const sum = all.reduce((total, { add }) => total + add, 0);
      expect(counted(out, "loan.reserved")).toBeCloseTo(sum, 6);
      expect(counted(out, "loan.deposit")).toBeCloseTo(sum, 6);
      for (const batch of out) for (const { metric } of batch.series()) expect(metric.identity.temporality).toBe(to);
    }),
  );
});

test("what is sent again adds nothing", () => {
  const dictionary = new Dictionary();
  const change = new TemporalityChange("cumulative", ORIGIN);
  const all: Increment[] = [
    { add: 3, restart: false },
    { add: 4, restart: false },
  ];
  const out = [...batches(all, "delta", dictionary), ...batches(all, "delta", dictionary)].map((batch) =>
    change.change(batch, dictionary),
  );
  expect(out.map(({ points }) => points)).toEqual([2, 2, 0, 0]);
  expect(counted(out, "loan.reserved")).toBe(7);
});

test("levels go through as they are", () => {
  const dictionary = new Dictionary();
  const gauge = { name: "queue.depth", kind: "gauge", unit: "1", temporality: "none", monotonic: false } as const;
  const series = dictionary.series(dictionary.metric(gauge, ""), {
    resource: RESOURCE,
    scope: { name: "", version: "" },
    attributes: {},
  });
  const batch = new Batch();
  batch.number(series, { timeMs: ORIGIN, timeNs: 0, startMs: 0, startNs: 0, flags: 0 }, 5);
  const out = new TemporalityChange("delta", ORIGIN).change(batch, dictionary);
  expect([...out.series()]).toEqual([series]);
});

test.each(["a window that closes", "a change of temporality"])(
  "%s counts the first of a series that its process did not report before, and takes nothing from one that is known",
  (how) => {
    const dictionary = new Dictionary();
    const absences = new Absences(dictionary);
    const metric = dictionary.metric(
      { name: "loan.refused", kind: "sum", unit: "{loan}", temporality: "cumulative", monotonic: true },
      "",
    );
    const seriesAt = (depot: string) =>
      dictionary.series(metric, {
        resource: { ...RESOURCE, "service.instance.id": "a" },
        scope: { name: "", version: "" },
        attributes: { depot },
      });
    const reports = [
      { Brindle: 10 },
      { Brindle: 11 },
      { Brindle: 12, "Marrow Quay": 3 },
      { Brindle: 14, "Marrow Quay": 5 },
    ];
    const settings = { every: 15_000, within: "last", across: "sum", target: (one: KnownSeries) => one } as const;
    const window = new WindowedAggregation(settings, ORIGIN);
    const change = new TemporalityChange("delta", ORIGIN);
    const told: Batch[] = [];
    const out = reports.map((report, i) => {
      const time = ORIGIN + (i + 1) * 15_000;
      const batch = new Batch();
      for (const [depot, value] of Object.entries(report))
        batch.number(
          seriesAt(depot),
          { timeMs: time, timeNs: 0, startMs: ORIGIN - 86_400_000, startNs: 0, flags: FLAG.integer },
          value,
        );
      absences.fill(batch)();
      told.push(batch);
      const copy = new Batch();
      copy.append(batch);
      return how === "a window that closes" ? window.advance(copy, time, dictionary) : change.change(copy, dictionary);
    });
    const countOf = (depot: string) =>
      readHeld(
        `count of loan.refused where depot is "${depot}"`,
        heldSeries(out),
        { from: ORIGIN, to: ORIGIN + 60_000, every: null, zone: "UTC", picks: {} },
        ORIGIN,
      ).series[0]?.total;
    expect([countOf("Brindle"), countOf("Marrow Quay")]).toEqual([4, 5]);
    // Where a base is known already, what was not sent changes nothing.
    const known = new Increases(ORIGIN);
    const key = seriesText(seriesAt("Marrow Quay"));
    const amount = (value: number) => ({ kind: "number", value, integer: true }) as const;
    known.seed(key, { start: ORIGIN - 86_400_000, time: ORIGIN, amount: amount(2) });
    known.seedAbsent(told[2]);
    const row = { start: ORIGIN - 86_400_000, time: ORIGIN + 45_000, amount: amount(3) };
    expect(known.of(key, metric.identity, row)?.added).toEqual(amount(1));
  },
);
