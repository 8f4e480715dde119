import type { CatalogueEntry } from "@/core/api/instruments";
import { linesOf, search, searchable } from "./search";

const entry = (name: string, more: Partial<CatalogueEntry> = {}): CatalogueEntry => ({
  name,
  kind: "sum",
  unit: "{loan}",
  temporality: "cumulative",
  monotonic: true,
  description: "",
  variants: 0,
  services: ["loans"],
  releases: 1,
  attributes: ["depot"],
  seriesNow: 1,
  series: 1,
  contract: null,
  findings: 0,
  ...more,
});
const ALL = searchable([
  entry("loan.reserved"),
  entry("loan.extended", { attributes: ["tool.kind"] }),
  entry("locker.open.duration", { services: ["lockers"], unit: "s" }),
]);
const names = (text: string, byValue: string[] = []) =>
  search(ALL, text, new Set(byValue)).entries.map(({ name }) => name);

test("any part of a name, attribute or service, several words together, and values", () => {
  expect(names("")).toHaveLength(3);
  expect(names("EXT")).toEqual(["loan.extended"]);
  expect(names("tool.k")).toEqual(["loan.extended"]);
  expect(names("lockers")).toEqual(["locker.open.duration"]);
  expect(names("loan depot")).toEqual(["loan.reserved"]);
  expect(names("Brindle", ["loan.reserved"])).toEqual(["loan.reserved"]);
});

test("a near name where nothing is found", () => {
  expect(search(ALL, "loan.resevred", new Set())).toEqual({ entries: [], near: "loan.reserved" });
  expect(search(ALL, "xyzzy", new Set()).near).toBeNull();
});

test("lines in groups that begin alike", () => {
  expect(
    linesOf(ALL.map((one) => one.entry)).map((line) =>
      line.type === "head" ? `${line.prefix} ${line.count}` : line.entry.name,
    ),
  ).toEqual(["loan 2", "loan.reserved", "loan.extended", "locker.open.duration"]);
});

test("ten thousand instruments are searched in far less than the blink of an eye", () => {
  const many = searchable(
    Array.from({ length: 10_000 }, (_, i) =>
      entry(`area${i % 97}.thing${i}.duration`, { attributes: ["depot", "http.route", "tool.kind"] }),
    ),
  );
  expect(search(many, "thing9999", new Set()).entries).toHaveLength(1);
  expect(search(many, "area13 duration", new Set()).entries).toHaveLength(Math.ceil((10_000 - 13) / 97));
  expect(linesOf(search(many, "", new Set()).entries)).toHaveLength(10_097);
});
