import type { InstanceEntry } from "@/core/api/services";
import { vitalReadings, vitalValues } from "@/core/service/vitals";
import { byRelease, groupsOf, rowOf } from "./rows";

const NOW = 1_764_000_000_000;
const entry = (service: string, instance: string, more: Partial<InstanceEntry> = {}): InstanceEntry => ({
  service,
  release: "1",
  environment: "production",
  instance,
  attributes: { "telemetry.sdk.language": "nodejs" },
  firstAt: NOW - 3600_000,
  lastAt: NOW - 1000,
  every: 10_000,
  pointsPerMinute: 60,
  points: 1000,
  series: 10,
  ...more,
});

test("silent after three of its intervals, and for how long", () => {
  const silent = (ago: number, every: number | null) =>
    rowOf(entry("a", "1", { lastAt: NOW - ago, every }), {}, NOW).silent;
  expect(silent(30_000, 10_000)).toBe(0);
  expect(silent(33_000, 10_000)).toBe(33_000);
  expect(silent(6_000, 1_000)).toBe(6_000);
  expect(silent(100_000, null)).toBe(0);
  expect(silent(200_000, null)).toBe(200_000);
});

test("groups by any attribute, with sums, sorted by the worst first", () => {
  const rows = [
    rowOf(entry("loans", "b", { attributes: { host: "x" } }), { memory: 5 }, NOW),
    rowOf(entry("loans", "a", { lastAt: NOW - 3600_000 }), { memory: 9 }, NOW),
    rowOf(entry("catalogue", "c", { series: 3, pointsPerMinute: 1 }), {}, NOW),
  ];
  const byService = groupsOf(rows, "service.name", "name");
  expect(byService.map(({ name, silent, series, pointsPerMinute }) => [name, silent, series, pointsPerMinute])).toEqual(
    [
      ["catalogue", 0, 3, 1],
      ["loans", 1, 20, 120],
    ],
  );
  expect(byService[1].rows.map(({ instance }) => instance)).toEqual(["a", "b"]);
  expect(groupsOf(rows, "service.name", "silence").map(({ name }) => name)).toEqual(["loans", "catalogue"]);
  expect(groupsOf(rows, "host", "memory").map(({ name, rows: own }) => [name, own.length])).toEqual([
    ["", 2],
    ["x", 1],
  ]);
});

test("vital signs are asked of the metrics there are, and found by instance", () => {
  const readings = vitalReadings(new Set(["process.memory.usage", "v8js.gc.duration"]));
  expect(readings.map(({ vital }) => vital)).toEqual(["memory", "garbage"]);
  const labels = {
    "service.name": "loans",
    "service.version": "1",
    "deployment.environment.name": null,
    "service.instance.id": "a",
  };
  const values = vitalValues({ series: [{ labels, values: [], total: 7 }] } as never);
  expect([...values]).toEqual([['["loans","1","","a"]', 7]]);
});

test("releases that report come first; those that nobody serves any more stand apart", () => {
  const gone = { lastAt: NOW - 7200_000 };
  const rows = [
    rowOf(entry("loans", "old-1", { release: "1", ...gone }), {}, NOW),
    rowOf(entry("loans", "old-2", { release: "1", ...gone }), {}, NOW),
    rowOf(entry("loans", "a", { release: "2", ...gone }), {}, NOW),
    rowOf(entry("loans", "b", { release: "2" }), {}, NOW),
  ];
  const [group] = groupsOf(rows, "service.name", "name");
  const { served, past } = byRelease(group);
  expect(served.map(({ release, rows: own }) => [release, own.map(({ instance }) => instance)])).toEqual([
    ["2", ["b", "a"]],
  ]);
  expect(past.map(({ instance }) => instance)).toEqual(["old-1", "old-2"]);
});

test("where a service has fallen silent as a whole, the release heard last is not put behind a count", () => {
  const rows = [
    rowOf(entry("loans", "a", { release: "1", lastAt: NOW - 9000_000 }), {}, NOW),
    rowOf(entry("loans", "b", { release: "2", lastAt: NOW - 7200_000 }), {}, NOW),
  ];
  const { served, past } = byRelease(groupsOf(rows, "service.name", "name")[0]);
  expect(served.map(({ release }) => release)).toEqual(["2"]);
  expect(past.map(({ release }) => release)).toEqual(["1"]);
});
