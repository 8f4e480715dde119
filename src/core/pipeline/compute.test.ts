import fc from "fast-check";
import { FLAG } from "../metric/model";
import { Batch } from "../otlp/batch/batch";
import { Dictionary } from "../otlp/dictionary";
import { pipelineSchema } from "./config";
import { Lane } from "./lane";

const ORIGIN = 1_764_000_000_000;
const stepsOf = (...metrics: object[]) => pipelineSchema.parse({ metrics }).metrics;

interface Sent {
  metric: "errors" | "requests";
  depot: string;
  at: number;
  value: number;
}

const sent: fc.Arbitrary<Sent[]> = fc.uniqueArray(
  fc.record({
    metric: fc.constantFrom("errors" as const, "requests" as const),
    depot: fc.constantFrom("Brindle", "Candlewick"),
    at: fc.integer({ min: 1, max: 39_999 }),
    value: fc.integer({ min: 1, max: 20 }),
  }),
  { maxLength: 40, selector: ({ at }) => at },
);

function batchOf(points: readonly Sent[], dictionary: Dictionary): Batch {
  const batch = new Batch();
  for (const { metric, depot, at, value } of points) {
    const identity = { name: metric, kind: "sum", unit: "{call}", temporality: "delta", monotonic: true } as const;
    const resource = { "service.name": "loans" };
    const series = dictionary.series(dictionary.metric(identity, ""), {
      resource,
      scope: { name: "", version: "" },
      attributes: { depot },
    });
    const head = { timeMs: ORIGIN + at, timeNs: 0, startMs: ORIGIN + at - 1, startNs: 0, flags: FLAG.integer };
    batch.number(series, head, value);
  }
  return batch;
}

/** The figures that come out, by depot and end of window. */
function figures(out: Batch): Record<string, number> {
  const found: Record<string, number> = {};
  const { all, sets } = out.inColumns();
  for (const { metric, set } of sets)
    for (let row = 0; row < set.count; row++)
      if (metric.identity.kind === "gauge")
        found[`${all[set.series[row]].identity.attributes.depot} ${(set.timeMs[row] - ORIGIN) / 1000}`] =
          set.columns[0][row];
  return found;
}

function byHand(points: readonly Sent[], digits: number): Record<string, number> {
  const found: Record<string, number> = {};
  for (const depot of ["Brindle", "Candlewick"])
    for (const end of [10, 20, 30, 40]) {
      const sum = (wanted: string) =>
        points
          .filter(
            ({ metric, depot: own, at }) => metric === wanted && own === depot && Math.ceil(at / 10_000) * 10 === end,
          )
          .reduce((total, { value }) => total + value, 0);
      const [errors, requests] = [sum("errors"), sum("requests")];
      if (errors > 0 && requests > 0)
        found[`${depot} ${end}`] = Number(((errors / requests) * 100).toPrecision(digits));
    }
  return found;
}

const STEP = {
  id: "c",
  type: "compute",
  reading: "count of errors by depot / count of requests by depot",
  to: "error.share",
  unit: "%",
  digits: 3,
  every: 10,
};

test("a share of two sums, window by window and rounded, agrees with one worked out by hand, in any order of arrival", () => {
  fc.assert(
    fc.property(sent, fc.boolean(), (points, turned) => {
      const dictionary = new Dictionary();
      const lane = new Lane(stepsOf(STEP), dictionary, ORIGIN);
      const arrivals = turned ? [...points].reverse() : points;
      const held = new Batch();
      for (const one of arrivals) {
        const batch = batchOf([one], dictionary);
        for (const { batch: some } of lane.admit(batch)) held.append(some);
        expect(batch.points).toBe(1);
      }
      const found = figures(lane.advance("c", held, ORIGIN + 40_000).out);
      const wanted = byHand(points, 3);
      expect(Object.keys(found).sort()).toEqual(Object.keys(wanted).sort());
      for (const [key, value] of Object.entries(wanted)) expect(found[key]).toBeCloseTo(value, 9);
    }),
  );
});

test("its memory goes over a restart, and the originals may go", () => {
  const dictionary = new Dictionary();
  const points: Sent[] = [
    { metric: "errors", depot: "Brindle", at: 2000, value: 1 },
    { metric: "requests", depot: "Brindle", at: 3000, value: 8 },
    { metric: "errors", depot: "Brindle", at: 12_000, value: 3 },
    { metric: "requests", depot: "Brindle", at: 13_000, value: 4 },
  ];
  const steps = stepsOf({ ...STEP, originals: false });
  const first = new Lane(steps, dictionary, ORIGIN);
  const batch = batchOf(points.slice(0, 2), dictionary);
  const [{ batch: waiting }] = first.admit(batch);
  expect(batch.points).toBe(0);
  const out = figures(first.advance("c", waiting, ORIGIN + 10_000).out);
  const second = new Lane(steps, dictionary, ORIGIN, JSON.parse(JSON.stringify(first.save())));
  const [{ batch: rest }] = second.admit(batchOf(points.slice(2), dictionary));
  // One that was sent again counts once.
  for (const { batch: again } of second.admit(batchOf(points.slice(1, 2), dictionary))) rest.append(again);
  expect({ ...out, ...figures(second.advance("c", rest, ORIGIN + 20_000).out) }).toEqual({
    "Brindle 10": 12.5,
    "Brindle 20": 75,
  });
});

test("a figure that cannot be said in its unit is refused, and it is told why", () => {
  const dictionary = new Dictionary();
  const lane = new Lane(stepsOf({ ...STEP, unit: "s" }), dictionary, ORIGIN);
  const [{ batch }] = lane.admit(
    batchOf(
      [
        { metric: "errors", depot: "Brindle", at: 1000, value: 1 },
        { metric: "requests", depot: "Brindle", at: 1500, value: 2 },
      ],
      dictionary,
    ),
  );
  expect(lane.advance("c", batch, ORIGIN + 10_000).out.points).toBe(0);
  expect(lane.problems().c).toContain("cannot be said in s");
  expect(lane.counts().c.refused).toBe(2);
});

test.each([
  ["count of", "expected"],
  ["count of errors over 5m", "per window"],
  ["3 + 4", "a reading of some metric"],
])("the formula %s is refused", (reading, message) => {
  const parsed = pipelineSchema.safeParse({ metrics: [{ ...STEP, reading }] });
  expect(parsed.success ? "" : parsed.error.issues[0].message).toContain(message);
});
