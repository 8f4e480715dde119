import { contractBody } from "./contract";
import { contractRepairs } from "./repair";

const contract = (name: string, ...attributes: string[]) =>
  contractBody.parse({ name, kind: "counter", unit: "1", attributes: attributes.map((one) => ({ name: one })) });

const metric = { what: "metric", of: "", from: "loan.extend.count", to: "loan.extended" } as const;

test("the contract of a renamed metric goes on under its new name, unless that has one", () => {
  const old = contract("loan.extend.count", "depot");
  const other = contract("loan.reserved", "depot");
  expect(contractRepairs([old, other], metric)).toEqual([
    { name: "loan.extend.count", becomes: "loan.extended", body: { ...old, name: "loan.extended" }, stays: "" },
  ]);
  expect(contractRepairs([old, contract("loan.extended")], metric)).toMatchObject([
    { body: null, stays: "loan.extended has a contract of its own" },
  ]);
  expect(contractRepairs([old], { ...metric, to: "loans extended" })).toMatchObject([
    { body: null, stays: expect.stringContaining("a name begins with a letter") },
  ]);
  expect(contractRepairs([other], metric)).toEqual([]);
});

test("an attribute is put right in the contracts of one metric or of all, with what they ask of it", () => {
  const all = [
    contract("a", "depot", "kind"),
    contract("b", "depot"),
    contract("c", "kind"),
    contract("d", "depot", "place"),
  ];
  const repair = { what: "attribute", from: "depot", to: "place" } as const;
  const names = (of: string) =>
    contractRepairs(all, { ...repair, of }).map(({ name, body, stays }) => [
      name,
      body?.attributes.map((one) => one.name) ?? stays,
    ]);
  expect(names("")).toEqual([
    ["a", ["place", "kind"]],
    ["b", ["place"]],
    ["d", "it has place already"],
  ]);
  expect(names("b")).toEqual([["b", ["place"]]]);
  expect(names("c")).toEqual([]);
});
