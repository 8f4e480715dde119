import { type ContractBody, contractBody, INSTRUMENT_KINDS } from "../../contract/contract";
import { LANGUAGES } from ".";
import { camel } from "./language";

const contract = (kind: ContractBody["kind"], more: Partial<ContractBody> = {}): ContractBody =>
  contractBody.parse({
    name: "locker.open.duration",
    kind,
    unit: "s",
    description: 'From the request until the "door" is open',
    attributes: [{ name: "depot", values: ["Brindle"] }, { name: "tool.kind" }],
    ...more,
  });
const all = (language: (typeof LANGUAGES)[number], body: ContractBody) =>
  language
    .instrument(body)
    .map(({ text }) => text)
    .join("\n");

for (const language of LANGUAGES) {
  test.each(INSTRUMENT_KINDS)(`${language.name}: a %s has its name, unit, description and attributes`, (kind) => {
    const text = all(language, contract(kind));
    for (const part of ['"locker.open.duration"', '"s"', '\\"door\\"', '"depot"', '"Brindle"', '"tool.kind"'])
      expect(text).toContain(part);
  });

  test(`${language.name}: bounds stand where the SDK takes them; exponential buckets need a view`, () => {
    expect(all(language, contract("histogram", { bounds: [0.25, 2] }))).toMatch(/0\.25, 2/);
    expect(language.instrument(contract("exponential histogram")).map(({ title }) => title)).toContain(
      "A view, in the start-up code",
    );
  });
}

test("names of variables", () => {
  expect(["loan.extended", "HTTP_requests", "a"].map(camel)).toEqual(["loanExtended", "httpRequests", "a"]);
});
