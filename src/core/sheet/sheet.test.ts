import fc from "fast-check";
import { anyNewPlate, anySheet } from "./arbitrary";
import { chosenOf, chosenWords, orderedValues } from "./chosen";
import {
  addBand,
  addPlate,
  type Change,
  changeHead,
  changePlate,
  copyPlate,
  moveBand,
  movePlate,
  removeBand,
  removePlate,
  stepPlate,
  withChange,
} from "./edit";
import { changed, redone, unchanged, undone } from "./history";
import { changesBetween, merged, sameSheet } from "./merge";
import type { Pick } from "./pick";
import {
  chosenBefore,
  idlePicks,
  missingPicks,
  pickOrder,
  picksBefore,
  picksIn,
  renamePick,
  usesOfPick,
} from "./pickText";
import { platesOf, readingsOf } from "./plates";
import { idFor, type Sheet, sheet } from "./sheet";

test("a sheet is what its text says: printing it as JSON and reading it back gives the same", () => {
  fc.assert(
    fc.property(anySheet, (one) => {
      expect(sheet.parse(JSON.parse(JSON.stringify(one)))).toEqual(one);
    }),
  );
});

test("what stands twice is refused, and a fifth plate in a band", () => {
  const plates = [1, 2, 3, 4, 5].map((i) => ({ id: `p${i}`, holds: "note", note: "" }));
  const read = (bands: object[], picks: object[] = []) => sheet.safeParse({ name: "A", bands, picks });
  expect(read([{ id: "b", plates: plates.slice(0, 4) }]).success).toBe(true);
  expect(read([{ id: "b", plates }]).error?.issues[0].message).toContain("at most 4 plates");
  expect(read([{ id: "p1", plates: plates.slice(0, 1) }]).error?.issues[0].message).toBe("part p1 stands twice");
  const pick = { name: "a", words: "a", source: { of: "text" } };
  expect(read([], [pick, pick]).error?.issues[0].message).toBe("pick a stands twice");
});

/** Some change of a sheet, by what is drawn. */
const anyChange = (one: Sheet): fc.Arbitrary<Change> => {
  const bands = one.bands.map(({ id }) => id);
  const plates = platesOf(one).map(({ id }) => id);
  const some: fc.Arbitrary<Change>[] = [
    fc.constantFrom("Morning", "Evening").map((name) => changeHead({ name })),
    fc.nat(3).map((at) => addBand({ id: `n${at}`, title: "", folded: false, plates: [] }, at)),
  ];
  if (bands.length > 0) {
    const band = fc.constantFrom(...bands);
    some.push(band.map(removeBand));
    some.push(fc.tuple(band, fc.nat(4)).map(([id, to]) => moveBand(id, to)));
    some.push(fc.tuple(anyNewPlate, band, fc.nat(4)).map(([plate, id, at]) => addPlate(plate, id, at)));
  }
  if (plates.length > 0) {
    const plate = fc.constantFrom(...plates);
    some.push(plate.map(removePlate));
    some.push(plate.map((id) => copyPlate(id, `${id}c`)));
    some.push(fc.tuple(plate, fc.constantFrom(1 as const, -1 as const)).map(([id, by]) => stepPlate(id, by)));
    some.push(fc.tuple(plate, fc.constantFrom(...bands), fc.nat(4)).map(([id, to, at]) => movePlate(id, to, at)));
    some.push(plate.map((id) => changePlate(id, (old) => ({ ...old, title: "Another" }))));
  }
  return fc.oneof(...some);
};

const changes = anySheet.chain((one) => fc.tuple(fc.constant(one), fc.array(anyChange(one), { maxLength: 25 })));

test("every change leaves a sheet that can be saved, and loses no plate that it does not name", () => {
  fc.assert(
    fc.property(changes, ([one, all]) => {
      let now = one;
      for (const change of all) {
        now = withChange(now, change);
        expect(() => sheet.parse(now)).not.toThrow();
      }
    }),
  );
  fc.assert(
    fc.property(anySheet, fc.nat(20), fc.nat(5), fc.nat(4), (one, which, into, at) => {
      const plates = platesOf(one);
      if (plates.length === 0) return;
      const { id } = plates[which % plates.length];
      const moved = withChange(one, movePlate(id, one.bands[into % one.bands.length].id, at));
      const ids = (of: Sheet) =>
        platesOf(of)
          .map((plate) => plate.id)
          .sort();
      expect(ids(moved)).toEqual(ids(one));
    }),
  );
});

test("undoing gives every state there was, and doing again gives them back", () => {
  fc.assert(
    fc.property(changes, ([one, all]) => {
      const states = [unchanged(one)];
      for (const change of all) states.push(changed(states.at(-1)!, "a change", change));
      const seen = states.filter((state, i) => i === 0 || state !== states[i - 1]);
      let now = seen.at(-1)!;
      for (const state of seen.slice(0, -1).reverse()) {
        now = undone(now);
        expect(now.sheet).toEqual(state.sheet);
      }
      expect(undone(now)).toBe(now);
      for (const state of seen.slice(1)) {
        now = redone(now);
        expect(now.sheet).toEqual(state.sheet);
      }
      expect(redone(now)).toBe(now);
    }),
  );
});

test("letters of a word are one change; what was undone is gone with the next change", () => {
  let state = unchanged(sheet.parse({ name: "A" }));
  for (const name of ["M", "Mo", "Morning"]) state = changed(state, "name the sheet", changeHead({ name }), true);
  expect(state.steps).toHaveLength(1);
  expect(state.steps[0].forth).toHaveLength(1);
  state = undone(state);
  expect(state.sheet.name).toBe("A");
  expect(redone(state).sheet.name).toBe("Morning");
  state = changed(state, "tag", changeHead({ tags: ["daily"] }));
  expect(redone(state)).toBe(state);
  expect(state.steps.map(({ does }) => does)).toEqual(["tag"]);
});

test("a pick that is renamed is renamed wherever it is used, and nowhere else; renaming it back changes nothing", () => {
  fc.assert(
    fc.property(anySheet, (one) => {
      for (const { name } of one.picks) {
        const other = renamePick(one, name, "fresh.name");
        expect(usesOfPick(other, name)).toEqual([]);
        expect(usesOfPick(other, "fresh.name")).toHaveLength(usesOfPick(one, name).length);
        for (const { reading } of readingsOf(other)) expect(picksIn(reading.text)).not.toContain(name);
        for (const { source } of other.picks) expect(JSON.stringify(source)).not.toContain(`<${name}>`);
        // What stands in quotes is a text and no pick.
        const quoted = (of: Sheet) => readingsOf(of).filter(({ reading }) => reading.text.includes('"<depot>"')).length;
        expect(quoted(other)).toBe(quoted(one));
        expect(renamePick(other, "fresh.name", name)).toEqual(one);
      }
    }),
  );
});

test("picks that are named and not there are told with who names them, and those that nothing uses", () => {
  const one = sheet.parse({
    name: "A",
    picks: [
      { name: "kind", words: "tool kind", source: { of: "values", attribute: "tool.kind", where: "depot is <depot>" } },
      { name: "idle", words: "idle", source: { of: "text" } },
      { name: "release", words: "release", source: { of: "releases", service: "<shop>" } },
    ],
    bands: [
      {
        id: "b",
        plates: [
          {
            id: "p",
            title: "Doors",
            holds: "readings",
            readings: [{ text: "count of m where k is <kind>" }],
            look: { as: "lines" },
          },
        ],
      },
    ],
  });
  expect(missingPicks(one)).toEqual([
    { name: "depot", uses: ["the pick kind"] },
    { name: "shop", uses: ["the pick release"] },
  ]);
  expect(idlePicks(one)).toEqual(["idle", "release"]);
  expect(usesOfPick(one, "kind")).toEqual(['the plate "Doors"']);
});

test("picks are filled after those that they name; a ring of them never is", () => {
  const from = (name: string, ...names: string[]): Pick => ({
    name,
    words: name,
    source: {
      of: "values",
      attribute: name,
      metric: "",
      where: names.map((one) => `${one} is <${one}>`).join(" and "),
      pattern: "",
    },
    many: false,
    all: false,
    preset: [],
  });
  expect(pickOrder([from("c", "b"), from("a"), from("b", "a")])).toEqual({ order: ["a", "b", "c"], ring: [] });
  expect(pickOrder([from("a", "b"), from("b", "a"), from("c")])).toEqual({ order: ["c"], ring: ["a", "b"] });
  // Releases of whatever service is picked come after the service.
  const release = { ...from("release"), source: { of: "releases" as const, service: "<service>" } };
  expect(pickOrder([release, from("service", "a"), from("a")]).order).toEqual(["a", "service", "release"]);
  expect(pickOrder([release, { ...from("service"), source: { of: "services" as const } }]).ring).toEqual([]);
  const all = [release, from("service", "a"), from("a"), from("c")];
  expect(picksBefore(all, release).map(({ name }) => name)).toEqual(["service", "a"]);
  expect(chosenBefore(all, release, { a: ["1"], c: ["2"] })).toEqual({ a: ["1"] });
  expect(picksBefore([from("a", "b"), from("b", "a")], from("a", "b")).map(({ name }) => name)).toEqual(["b", "a"]);
});

test("what is chosen: by the address, else the preset, else all or the first there is", () => {
  const base: Pick = {
    name: "depot",
    words: "depot",
    source: { of: "list", values: ["A", "B"] },
    many: true,
    all: true,
    preset: [],
  };
  const of = (pick: Partial<Pick>, address: Record<string, string[]> = {}, first?: string) =>
    chosenOf([{ ...base, ...pick }], address, () => first);
  expect(of({})).toEqual({ chosen: { depot: [] }, unknown: [] });
  expect(of({ preset: ["B"] }).chosen).toEqual({ depot: ["B"] });
  expect(of({ preset: ["B"] }, { depot: ["*"] }).chosen).toEqual({ depot: [] });
  expect(of({}, { depot: ["A", "B"] }).chosen).toEqual({ depot: ["A", "B"] });
  expect(of({ many: false }, { depot: ["A", "B"] }).chosen).toEqual({ depot: ["A"] });
  expect(of({ all: false }).chosen).toEqual({ depot: ["A"] });
  expect(of({ all: false, source: { of: "services" } })).toEqual({ chosen: {}, unknown: ["depot"] });
  expect(of({ all: false, source: { of: "services" } }, {}, "loans").chosen).toEqual({ depot: ["loans"] });
  // The first release of a service is another one's no more when the service is another.
  const two = [
    { ...base, name: "service", many: false },
    { ...base, name: "release", all: false, source: { of: "releases" as const, service: "<service>" } },
  ];
  const releases: Record<string, string> = { A: "5.3.0", B: "2.0.0" };
  const firsts = (service: string) =>
    chosenOf(two, { service: [service] }, (_, chosen) => releases[chosen.service[0]]).chosen.release;
  expect([firsts("A"), firsts("B")]).toEqual([["5.3.0"], ["2.0.0"]]);
  expect([[], ["A"], ["A", "B"], ["A", "B", "C"], ["A", "B", "C", "D"]].map(chosenWords)).toEqual([
    "any",
    "A",
    "A and B",
    "A, B and C",
    "A, B and 2 more",
  ]);
});

test("values stand as numbers where they are numbers, else as people count", () => {
  expect(orderedValues(["100", "20", "3"])).toEqual(["3", "20", "100"]);
  expect(orderedValues(["5.10.0", "5.9.0", "locker 10", "locker 9"])).toEqual([
    "5.9.0",
    "5.10.0",
    "locker 9",
    "locker 10",
  ]);
});

test("what changed between two states is told part by part", () => {
  const [a, b] = [
    { id: "a", holds: "note" },
    { id: "b", holds: "note", title: "Two" },
  ];
  const before = sheet.parse({
    name: "A",
    bands: [{ id: "x", plates: [a, b, { id: "c", holds: "note" }] }, { id: "y" }],
  });
  const after = sheet.parse({
    name: "A",
    purpose: "daily",
    bands: [
      { id: "x", plates: [{ ...b, title: "Second" }, a, { id: "d", holds: "note" }] },
      { id: "y", plates: [] },
    ],
  });
  expect(changesBetween(before, after).map(({ key, did }) => [key, did])).toEqual([
    ["head purpose", "changed"],
    ["plate b", "changed"],
    ["plate a", "moved"],
    ["plate d", "added"],
    ["plate c", "removed"],
  ]);
});

test("two writers: what one of them changed is taken, and where both did, the one that is chosen", () => {
  fc.assert(
    fc.property(
      anySheet.chain((one) =>
        fc.tuple(
          fc.constant(one),
          fc.array(anyChange(one), { maxLength: 6 }),
          fc.array(anyChange(one), { maxLength: 6 }),
        ),
      ),
      ([base, mine, theirs]) => {
        const state = (all: readonly Change[]) => all.reduce(withChange, base);
        const [own, other] = [state(mine), state(theirs)];
        // Nobody's work but one's own: nothing to choose.
        expect(sameSheet(merged(base, base, other, () => "mine").sheet, other)).toBe(true);
        expect(merged(base, own, own, () => "mine").conflicts).toEqual([]);
        const { sheet: both, conflicts } = merged(base, own, other, () => "theirs");
        expect(() => sheet.parse(both)).not.toThrow();
        const has = (of: Sheet) => new Set(platesOf(of).map(({ id }) => id));
        const conflicting = new Set(conflicts.map(({ key }) => key));
        for (const id of has(own)) {
          // What I added stays, and what neither took away.
          if (!has(base).has(id) && !conflicting.has(`plate ${id}`)) expect(has(both)).toContain(id);
          if (has(base).has(id) && has(other).has(id)) expect(has(both)).toContain(id);
        }
      },
    ),
  );
});

test("my change and theirs of the same plate are told, and either can be taken", () => {
  const base = sheet.parse({ name: "A", bands: [{ id: "x", plates: [{ id: "a", holds: "note", title: "One" }] }] });
  const titled = (title: string) =>
    withChange(
      base,
      changePlate("a", (plate) => ({ ...plate, title })),
    );
  const titleOf = (side: "mine" | "theirs") => {
    const { sheet: both, conflicts } = merged(base, titled("Mine"), titled("Theirs"), () => side);
    expect(conflicts.map(({ key }) => key)).toEqual(["plate a"]);
    return platesOf(both)[0].title;
  };
  expect([titleOf("mine"), titleOf("theirs")]).toEqual(["Mine", "Theirs"]);
});

test("ids are made of names, and never those of others", () => {
  expect(idFor("Lending floor", () => false)).toBe("lending-floor");
  expect(idFor("Übergabe / Süd", () => false)).toBe("ubergabe-sud");
  expect(idFor("貸出", () => false)).toBe("sheet");
  expect(idFor("A", (id) => id === "a" || id === "a-2")).toBe("a-3");
});
