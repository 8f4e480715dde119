import fc from "fast-check";
import { anySheet } from "./arbitrary";
import { repaired, repairedReading } from "./repair";
import { sheet } from "./sheet";
import { usesOf } from "./uses";

const metric = (from: string, to: string) => ({ what: "metric" as const, of: "", from, to });
const attribute = (from: string, to: string, of = "") => ({ what: "attribute" as const, of, from, to });

test("a metric and an attribute are put right wherever a reading names them, and nowhere else", () => {
  const text = 'rate of loan.extend.count where depot is "loan.extend.count" by depot / rate of other by depot';
  expect(repairedReading(text, metric("loan.extend.count", "loan.extended"))).toBe(
    'rate of loan.extended where depot is "loan.extend.count" by depot / rate of other by depot',
  );
  expect(repairedReading(text, attribute("depot", "place.name", "other"))).toBe(
    'rate of loan.extend.count where depot is "loan.extend.count" by depot / rate of other by place.name',
  );
  expect(
    repairedReading("share of m that a is 1 where (a is 2 or b is <x>) by release", attribute("a", "release")),
  ).toBe("share of m that release is 1 where release is 2 or b is <x> by release");
  expect(repairedReading("rate of loan.extend.count by", metric("loan.extend.count", "x"))).toBe(
    "rate of loan.extend.count by",
  );
  expect(repairedReading("rate of   m", metric("other", "x"))).toBe("rate of   m");
});

test("a repaired sheet reads the new name where it read the old one; put back, it is what it was", () => {
  fc.assert(
    fc.property(anySheet, (one) => {
      for (const repair of [metric("loan.reserved", "loan.kept"), attribute("depot", "shop")]) {
        const { sheet: other, changes } = repaired(one, repair);
        const key = repair.what === "metric" ? "metrics" : "attributes";
        const had = usesOf(one)[key].includes(repair.from);
        expect(changes.length > 0).toBe(had);
        expect(usesOf(other)[key]).not.toContain(repair.from);
        expect(usesOf(other)[key].includes(repair.to)).toBe(had);
        const back = repaired(other, { ...repair, from: repair.to, to: repair.from }).sheet;
        expect(repaired(back, repair).sheet).toEqual(other);
        expect(usesOf(back)).toEqual(usesOf(one));
        expect(() => sheet.parse(other)).not.toThrow();
      }
    }),
  );
});

test("what names series and what a table says of a label follow an attribute that is put right", () => {
  const table = (...texts: string[]) =>
    sheet.parse({
      name: "A",
      bands: [
        {
          id: "b",
          plates: [
            {
              id: "p",
              holds: "readings",
              readings: texts.map((text) => ({ text, names: "{release} in {depot}" })),
              look: {
                as: "table",
                sort: "depot",
                link: "/sheets/one?sheet=a&pick.depot={depot}&pick.kind={tool.kind}",
              },
            },
          ],
        },
      ],
    });
  const plateAfter = (one: ReturnType<typeof table>, repair: Parameters<typeof repaired>[1]) =>
    repaired(one, repair).sheet.bands[0].plates[0];
  const one = table("count of m by depot, tool.kind, release");
  expect(plateAfter(one, attribute("depot", "shop.name"))).toMatchObject({
    readings: [{ names: "{release} in {shop.name}" }],
    look: { sort: "shop.name", link: "/sheets/one?sheet=a&pick.depot={shop.name}&pick.kind={tool.kind}" },
  });
  // Labels are written short or whole.
  expect(plateAfter(one, attribute("service.version", "build"))).toMatchObject({
    readings: [{ names: "{build} in {depot}" }],
    look: { sort: "depot" },
  });
  expect(plateAfter(one, metric("m", "n"))).toMatchObject({
    look: one.bands[0].plates[0].holds === "readings" && one.bands[0].plates[0].look,
  });
  // Of two metrics only one has another name for it: rows are joined by the old one.
  expect(
    plateAfter(table("count of m by depot", "count of n by depot"), attribute("depot", "shop", "m")),
  ).toMatchObject({
    readings: [{ text: "count of m by shop" }, { text: "count of n by depot" }],
    look: { sort: "depot" },
  });
});
