import { parseReading } from "./parse";
import { type Askable, workedExamples } from "./questions";

const metric = (name: string, kind: string, unit = "", monotonic = false): Askable => ({ name, kind, unit, monotonic });

const ALL = [
  metric("tin.intake.points", "sum", "{point}", true),
  metric("queue wait", "histogram", "s"),
  metric("http.server.request.duration", "histogram", "s"),
  metric("loan.reserved", "sum", "{loan}", true),
  metric("process.memory.usage", "sum", "By"),
  metric("depot.temperature", "gauge", "Cel"),
  metric("rpc_seconds", "summary", "s"),
];

test("every example is a reading, and none asks the same as another", () => {
  const found = workedExamples(ALL);
  expect(found.length).toBe(10);
  for (const { reading } of found) expect(() => parseReading(reading)).not.toThrow();
  expect(new Set(found.map(({ reading }) => reading)).size).toBe(found.length);
  expect(new Set(found.map(({ question }) => question)).size).toBe(found.length);
});

test("the best histogram of calls is asked, and our own metrics only where there are no others", () => {
  const readings = workedExamples(ALL).map(({ reading }) => reading);
  expect(readings[0]).toBe("p95 of http.server.request.duration by release");
  expect(readings).toContain("rate of loan.reserved by release");
  expect(workedExamples([ALL[0]]).map(({ reading }) => reading)).toEqual(["rate of tin.intake.points by release"]);
  expect(workedExamples([])).toEqual([]);
});

test("a histogram that is no time has no share that is too slow; odd names are quoted", () => {
  const readings = workedExamples([metric("tool results", "histogram", "{tool}")]).map(({ reading }) => reading);
  expect(readings.some((one) => one.startsWith("share over"))).toBe(false);
  expect(readings[0]).toBe('p95 of "tool results" by release');
});
