import fc from "fast-check";
import { type Line, linesOf, matching } from "./lines";
import { groupsOf, type InstanceRow, MAX_UNFOLDED, SORTS } from "./rows";

const NOW = 1_764_000_000_000;

function row(service: string, release: string, instance: string, more: Partial<InstanceRow> = {}): InstanceRow {
  return {
    service,
    release,
    environment: "production",
    instance,
    attributes: {},
    firstAt: NOW - 3600_000,
    lastAt: NOW - 1000,
    every: 10_000,
    pointsPerMinute: 60,
    points: 1000,
    series: 10,
    silent: 0,
    vitals: {},
    ...more,
  };
}

function inWords(line: Line): string {
  if (line.kind === "group") return line.group.name;
  if (line.kind === "release") return `${line.release.release}: ${line.release.rows.length}`;
  return line.kind === "past" ? `past: ${line.count}` : line.row.instance;
}

test("a release of many instances is a line that opens, and what no longer serves is a count", () => {
  const many = Array.from({ length: 5 }, (_, i) => row("loans", "2", `n${i}`));
  const gone = row("loans", "1", "old", { silent: 60_000, lastAt: NOW - 60_000 });
  const groups = groupsOf([...many, gone, row("shelf", "7", "s")], "service.name", "name");
  const closed = linesOf(groups, new Set());
  expect(closed.map(inWords)).toEqual(["loans", "2: 5", "past: 1", "shelf", "s"]);
  const keys = closed.filter(({ kind }) => kind === "release" || kind === "past").map(({ key }) => key);
  expect(linesOf(groups, new Set(keys)).map(inWords)).toEqual([
    "loans",
    "2: 5",
    "n0",
    "n1",
    "n2",
    "n3",
    "n4",
    "past: 1",
    "old",
    "shelf",
    "s",
  ]);
  expect(linesOf(groups, new Set([keys[1]])).map(inWords)).toEqual(["loans", "2: 5", "past: 1", "old", "shelf", "s"]);
});

const few = (letters: string) => fc.constantFrom(...letters);

test("every instance stands on one line once all is opened, under its group, and no two lines have one key", () => {
  const anyRow = fc.record({
    service: few("abc"),
    release: few("123"),
    environment: few("pq"),
    instance: fc.nat(40),
    silent: fc.boolean(),
    node: few("xy"),
  });
  fc.assert(
    fc.property(
      fc.uniqueArray(anyRow, {
        selector: ({ service, release, environment, instance }) => [service, release, environment, instance].join(),
        maxLength: 60,
      }),
      fc.constantFrom("service.name", "service.version", "node"),
      fc.constantFrom(...SORTS),
      (all, by, sort) => {
        const rows = all.map(({ service, release, environment, instance, silent, node }) =>
          row(service, release, `i${instance}`, { environment, silent: silent ? 60_000 : 0, attributes: { node } }),
        );
        const groups = groupsOf(rows, by, sort);
        const folded = linesOf(groups, new Set());
        const lines = linesOf(groups, new Set(folded.map(({ key }) => key)));
        expect(new Set(lines.map(({ key }) => key)).size).toBe(lines.length);
        const drawn = lines.flatMap((line) => (line.kind === "instance" ? [line] : []));
        expect(drawn.length).toBe(rows.length);
        expect(new Set(drawn.map((line) => line.row))).toEqual(new Set(rows));
        for (const { group, row: one } of drawn) expect(group.rows).toContain(one);
        const unfolded = folded.filter(({ kind }) => kind === "instance").length;
        const releases = new Set(
          rows.map(({ service, release, environment, attributes }) =>
            [service, release, environment, by === "node" ? attributes.node : ""].join(),
          ),
        );
        expect(unfolded).toBeLessThanOrEqual(releases.size * MAX_UNFOLDED);
      },
    ),
  );
});

test("each word has to stand somewhere in a row", () => {
  const rows = [
    row("loans", "2.1", "loans-a", { attributes: { "host.name": "Brindle-3" } }),
    row("loans", "2.2", "loans-b", { environment: "staging" }),
    row("shelf", "7", "shelf-a"),
  ];
  const found = (text: string) => matching(rows, text).map(({ instance }) => instance);
  expect(found("")).toEqual(["loans-a", "loans-b", "shelf-a"]);
  expect(found(" LOANS ")).toEqual(["loans-a", "loans-b"]);
  expect(found("loans brindle")).toEqual(["loans-a"]);
  expect(found("2.2")).toEqual(["loans-b"]);
  expect(found("staging 2.1")).toEqual([]);
});
