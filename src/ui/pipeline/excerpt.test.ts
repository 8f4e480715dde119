import { excerpts } from "./excerpt";

test("short texts stand whole", () => {
  expect(excerpts("/loans/81273/extend", "/loans/{id}/extend")).toEqual({
    before: "/loans/81273/extend",
    after: "/loans/{id}/extend",
  });
});

test("of long ones, what differs is shown with a little around it", () => {
  const line = (who: string) =>
    `level=info msg="parcel handed over" reminder=1 member=${who} status=202 took=0.167 more=less`;
  expect(excerpts(line("member1@fern-anvil.example"), line("***"))).toEqual({
    before: "…minder=1 member=member1@fern-anvil.example status=202 took…",
    after: "…minder=1 member=*** status=202 took…",
  });
});

test("what differs throughout is cut at its end, and what only ends differently keeps its end", () => {
  const { before, after } = excerpts("a".repeat(300), "b".repeat(10));
  expect([before, after]).toEqual([`${"a".repeat(96)}…`, "b".repeat(10)]);
  expect(excerpts(`${"a".repeat(100)}1`, `${"a".repeat(100)}22`)).toEqual({
    before: `…${"a".repeat(16)}1`,
    after: `…${"a".repeat(16)}22`,
  });
});
