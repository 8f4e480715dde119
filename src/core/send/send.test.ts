import fc from "fast-check";
import { DEFAULT_BOUNDS, Gathering } from "./gather";
import { type HandPoint, HandPointError, pointFromJson, pointFromRow } from "./handPoint";

const RESOURCE = { "service.name": "by-hand" };

function messageOf(read: () => unknown): string {
  try {
    read();
  } catch (error) {
    if (error instanceof HandPointError) return error.message;
    throw error;
  }
  return "";
}

test("a line of JSON, with what the command says where it says nothing", () => {
  expect(pointFromJson('{"name":"pots.fired","kind":"counter","value":2,"attributes":{"kiln":"east"}}', {})).toEqual({
    name: "pots.fired",
    kind: "counter",
    value: 2,
    unit: "",
    attributes: { kiln: "east" },
  });
  const defaults = { name: "heat", kind: "gauge" as const, unit: "Cel", attributes: { kiln: "west", floor: "1" } };
  expect(pointFromJson('{"value":1,"time":"2026-11-23T10:00:00Z","attributes":{"kiln":"east"}}', defaults)).toEqual({
    name: "heat",
    kind: "gauge",
    value: 1,
    unit: "Cel",
    attributes: { kiln: "east", floor: "1" },
    time: Date.UTC(2026, 10, 23, 10),
  });
});

test.each([
  ["{", /^not JSON/],
  ["3", /^an object is expected/],
  ['{"kind":"counter","value":1}', /^name: a name is expected/],
  ['{"name":"a","kind":"count","value":1}', /^kind: a kind is expected: counter, gauge, histogram/],
  ['{"name":"a","kind":"gauge"}', /^value: a value is expected/],
  ['{"name":"a","kind":"counter","value":-1}', /^value: a counter never falls/],
  ['{"name":"a","kind":"gauge","value":[1,2]}', /^value: a gauge has one value/],
  ['{"name":"a","kind":"gauge","value":1,"time":"noon"}', /"noon" is no time/],
  ['{"name":"a","kind":"gauge","value":1,"attributes":{"a":{}}}', /^attributes.a/],
])("%s is refused with the reason", (line, reason) => {
  expect(messageOf(() => pointFromJson(line, {}))).toMatch(reason);
});

test("a row of a table: known columns, and all others as attributes", () => {
  const row = {
    name: "wait",
    kind: "histogram",
    value: "3 4.5",
    unit: "s",
    time: "1764000000000",
    depot: "Brindle",
    note: "",
  };
  expect(pointFromRow(row, {})).toEqual({
    name: "wait",
    kind: "histogram",
    value: [3, 4.5],
    unit: "s",
    time: 1764000000000,
    attributes: { depot: "Brindle" },
  });
  expect(messageOf(() => pointFromRow({ name: "a", kind: "gauge", value: "many" }, {}))).toBe(
    'value: "many" is no number',
  );
});

test("no line makes reading fail but with a reason", () => {
  fc.assert(
    fc.property(fc.oneof(fc.string(), fc.json()), (line) => {
      messageOf(() => pointFromJson(line, {}));
    }),
  );
});

const NOW = 1_764_000_000_000;
const point: fc.Arbitrary<HandPoint> = fc.record({
  name: fc.constantFrom("a", "b"),
  kind: fc.constantFrom("counter", "gauge", "histogram"),
  value: fc.integer({ min: 0, max: 12_000 }),
  unit: fc.constant("s"),
  attributes: fc.constantFrom<Record<string, string>>({}, { depot: "x" }),
  time: fc.option(fc.constantFrom(NOW - 5000, NOW - 4000), { nil: undefined }),
});

test("nothing is lost: counters and histograms add up, no series has two points of one time", () => {
  fc.assert(
    fc.property(fc.array(fc.array(point, { maxLength: 12 }), { maxLength: 4 }), (rounds) => {
      const gathering = new Gathering(RESOURCE);
      const sums = new Map<string, number>();
      const counts = new Map<string, number>();
      let observed = 0;
      rounds.forEach((points, i) => {
        for (const one of points) gathering.add(one, NOW + i);
        const seen = new Set<string>();
        const batch = gathering.take();
        let id = 0;
        for (const series of new Set(batch.series())) series.id = ++id;
        for (const { metric, sets } of batch.pointSets())
          for (const { layout, series, timeMs, startMs, columns, count } of sets)
            for (let row = 0; row < count; row++) {
              const key = `${series[row]} ${timeMs[row]}`;
              expect(seen.has(key)).toBe(false);
              seen.add(key);
              expect(startMs[row]).toBeLessThan(timeMs[row]);
              const name = `${metric.identity.kind} ${metric.identity.name}`;
              if (layout.kind === "number" && metric.identity.kind === "sum")
                sums.set(name, (sums.get(name) ?? 0) + columns[0][row]);
              if (layout.kind !== "explicit") continue;
              expect(layout.bounds).toEqual(DEFAULT_BOUNDS);
              const buckets = columns.slice(0, layout.bounds.length + 1).map((column) => column[row]);
              observed += buckets.reduce((sum, value) => sum + value, 0);
              counts.set(name, (counts.get(name) ?? 0) + columns[buckets.length + 2][row]);
            }
      });
      const all = rounds.flat();
      const wanted = (kind: string, name: string) =>
        all.filter((one) => one.kind === kind && one.name === name).reduce((sum, one) => sum + Number(one.value), 0);
      for (const name of ["a", "b"]) {
        expect(sums.get(`sum ${name}`) ?? 0).toBe(wanted("counter", name));
        expect(counts.get(`histogram ${name}`) ?? 0).toBe(wanted("histogram", name));
      }
      expect(observed).toBe(all.filter(({ kind }) => kind === "histogram").length);
    }),
  );
});
