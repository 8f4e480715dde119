import fc from "fast-check";
import type { ServiceMetric } from "../../api/services";
import type { Kind } from "../../metric/model";
import { canAnswer } from "../../reading/aggregations";
import { parseReading } from "../../reading/language/parse";
import { measuresOf } from "../../reading/language/tree";
import { DEFAULT_SLOW } from "../../service/work";
import { problemsOf } from "../file";
import { readingsOf } from "../plates";
import { sheet as schema } from "../sheet";
import { needsIn } from "../uses";
import { READY } from ".";
import { filledSheets, readySheet } from "./fill";

const PLACE = { service: "loans", environment: "production" };

const metric = (name: string, kind: string, attributes: string[] = [], unit = "s"): ServiceMetric => ({
  name,
  kind,
  unit,
  monotonic: kind === "sum" || kind === "histogram",
  attributes,
});

const PLATES = READY.flatMap(({ bands }) => bands.flatMap((band) => band.plates.map((plate) => ({ band, plate }))));
const NAMES = [...new Set(PLATES.flatMap(({ band, plate }) => plate.of ?? band.of ?? []))];
const ATTRIBUTES = [...new Set(PLATES.flatMap(({ plate }) => [...(plate.by ?? []), plate.needs ?? "error.type"]))];

const anyMetric = fc.record({
  name: fc.oneof(
    fc.constantFrom(...NAMES),
    fc.constantFrom("jvm.class.count", "reminder.queue.depth", "cache.size", "system.paging.faults", "loan.reserved"),
    fc.string({ minLength: 1, maxLength: 12, unit: "grapheme" }).filter((name) => name.trim() === name),
  ),
  kind: fc.constantFrom("gauge", "sum", "histogram", "exponential", "summary"),
  unit: fc.constantFrom("s", "ms", "By", "1", "{call}", ""),
  monotonic: fc.boolean(),
  attributes: fc.uniqueArray(fc.oneof(fc.constantFrom(...ATTRIBUTES), fc.constant("a b")), { maxLength: 6 }),
});

const anyPlace = fc.record({ service: fc.string({ minLength: 1, maxLength: 140 }), environment: fc.string() });

test("whatever a service sends, its ready sheets can be saved and each reading can be asked of what it sends", () => {
  fc.assert(
    fc.property(fc.array(anyMetric, { maxLength: 40 }), anyPlace, (metrics, place) => {
      const kinds = new Map(metrics.map((one) => [one.name, one]));
      for (const ready of READY) {
        const made = readySheet(ready, metrics, place, DEFAULT_SLOW);
        const saved = schema.parse(made);
        expect(problemsOf(saved)).toEqual([]);
        for (const { reading } of readingsOf(saved))
          for (const { metric: name, aggregation } of measuresOf(parseReading(reading.text).expression)) {
            const { kind, unit, monotonic } = kinds.get(name)!;
            const identity = { name, kind: kind as Kind, unit, monotonic, temporality: "cumulative" as const };
            expect(canAnswer(aggregation, identity)).toBe(true);
          }
      }
    }),
    { numRuns: 150 },
  );
});

test("every metric stands somewhere: on a ready sheet that names it, or that its name belongs to, or among the service's own", () => {
  fc.assert(
    fc.property(fc.array(anyMetric, { maxLength: 6 }), (metrics) => {
      const { sheets, own: unnamed } = filledSheets(metrics, "service is there", DEFAULT_SLOW);
      const texts = sheets.flatMap(({ bands }) => bands.flatMap(({ plates }) => plates.flatMap((one) => one.texts)));
      const shown = new Set(texts.flatMap((text) => needsIn(text).map((need) => need.metric)));
      const own = new Set(unnamed.map(({ name }) => name));
      for (const { name } of metrics) {
        expect(shown.has(name) && own.has(name)).toBe(false);
        // Of several that answer one plate the best is read; the others are not shown a second time.
        if (!shown.has(name) && !own.has(name)) expect(NAMES).toContain(name);
      }
    }),
  );
});

test("the calls of a service, word by word", () => {
  const metrics = [
    metric("http.server.request.duration", "histogram", ["http.route", "http.response.status_code", "error.type"]),
    metric("loan.reserved", "sum", ["depot"], "{loan}"),
  ];
  const { sheets } = filledSheets(metrics, "service is there", DEFAULT_SLOW);
  expect(sheets.filter(({ bands }) => bands.length > 0).map(({ ready }) => ready.id)).toEqual(["calls"]);
  const made = readySheet(READY[0], metrics, PLACE, { ...DEFAULT_SLOW, calls: 0.25 });
  expect(made.name).toBe("Calls of loans");
  expect(made.picks.map(({ name, preset }) => [name, preset])).toEqual([
    ["service", ["loans"]],
    ["environment", ["production"]],
  ]);
  const where = "where service is <service> and environment is <environment>";
  const of = `of http.server.request.duration`;
  expect(made.bands.map(({ title, plates }) => [title, plates.map((plate) => plate.title)])).toEqual([
    ["At a glance", ["Calls a second", "Slow", "Failing"]],
    ["Calls", ["How many", "How long, p95"]],
    ["Slow and failing", ["How many are slow", "How many fail"]],
    ["Routes", ["How many, by route", "How long, by route", "Route by route"]],
    ["How long they take, and how they end", ["How long, every one", "By what they answer"]],
  ]);
  expect(readingsOf(made).map(({ reading }) => reading.text)).toEqual([
    `rate ${of} ${where}`,
    `share over 250 ms ${of} ${where}`,
    `share ${of} that error.type is there ${where}`,
    `rate ${of} ${where} by release`,
    `p95 ${of} ${where} by release`,
    `share over 250 ms ${of} ${where} by release`,
    `share ${of} that error.type is there ${where} by release`,
    `rate ${of} ${where} by http.route top 6`,
    `p95 ${of} ${where} by http.route top 6`,
    `rate ${of} ${where} by http.route as "how many"`,
    `p95 ${of} ${where} by http.route as "how long, p95"`,
    `share ${of} that error.type is there ${where} by http.route as "that fail"`,
    `spread ${of} ${where}`,
    `rate ${of} ${where} by http.response.status_code`,
  ]);
});

test("a service without an environment has no pick for one, and its readings no test", () => {
  const made = readySheet(
    READY[5],
    [metric("system.cpu.utilization", "gauge", ["cpu.mode"], "1")],
    { service: "press", environment: "" },
    DEFAULT_SLOW,
  );
  expect(made.picks).toHaveLength(1);
  expect(readingsOf(made).map(({ reading }) => reading.text)).toEqual([
    "mean of system.cpu.utilization where service is <service> by cpu.mode",
  ]);
});

test("a name that is used for something else is asked what its own kind is asked", () => {
  const sent = [metric("jvm.gc.duration", "gauge")];
  const [java] = filledSheets(sent, "service is there", DEFAULT_SLOW).sheets[4].bands;
  expect(java.plates.map(({ title, texts }) => [title, ...texts])).toEqual([
    ["jvm.gc.duration", "mean of jvm.gc.duration where service is there by release"],
  ]);
});
