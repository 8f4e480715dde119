import type { ServiceMetric } from "../api/services";
import { parseReading } from "../reading/language/parse";
import { sectionsOf } from "./sections";
import { DEFAULT_SLOW, written } from "./work";

const metric = (name: string, kind = "histogram", attributes: string[] = [], unit = "s"): ServiceMetric => ({
  name,
  kind,
  unit,
  monotonic: kind === "sum" || kind === "histogram",
  attributes,
});
const PLACE = { service: 'lo"ans', environment: "production" };
const ALL = [
  metric("http.server.request.duration", "histogram", ["http.route", "error.type"]),
  metric("http.client.request.duration", "histogram", ["server.address"]),
  metric("db.client.operation.duration", "histogram", ["db.operation.name"]),
  metric("messaging.process.duration"),
  metric("reminder.queue.depth", "gauge", ["queue", "state"], "{reminder}"),
  metric("cache.lookups", "sum", ["outcome"], "{lookup}"),
  metric("v8js.gc.duration"),
  metric("process.memory.usage", "gauge", [], "By"),
  metric("system.cpu.utilization", "gauge", [], "1"),
  metric("loan.reserved", "sum", ["depot"], "{loan}"),
];

test("a section for each kind of work that reports, and none for the others", () => {
  const titles = (metrics: ServiceMetric[]) =>
    sectionsOf(metrics, PLACE, DEFAULT_SLOW).sections.map(({ title }) => title);
  expect(titles(ALL)).toEqual([
    "Calls",
    "Its own instruments",
    "Outgoing calls",
    "Database",
    "Messages",
    "Queues",
    "Cache",
    "Process",
    "Runtime",
    "Host",
  ]);
  expect(titles([ALL[5]])).toEqual(["Cache"]);
  expect(titles([])).toEqual([]);
});

test("every reading is understood, and each metric stands on one section only", () => {
  const { sections } = sectionsOf(ALL, PLACE, DEFAULT_SLOW);
  for (const { plates } of sections) for (const { reading } of plates) parseReading(reading);
  for (const { name } of ALL) {
    const having = sections.filter(({ plates }) => plates.some(({ reading }) => reading.includes(` of ${name} `)));
    expect(having).toHaveLength(1);
  }
});

test("the bound for slow stands in the reading, in its usual unit", () => {
  const [calls] = sectionsOf(ALL, PLACE, { ...DEFAULT_SLOW, calls: 0.25 }).sections;
  expect(calls.plates[2].reading).toContain("share over 250 ms of");
  expect([2, 0.0005, 0.1].map(written)).toEqual(["2 s", "0.0005 s", "100 ms"]);
});
