import fc from "fast-check";
import { predicate } from "./conditions";
import { mayMatch } from "./mayMatch";
import { parseCondition } from "./parse";

const test1 = fc
  .record({
    attribute: fc.constantFrom("metric", "depot", "kind"),
    not: fc.boolean(),
    value: fc.constantFrom("a", "b"),
  })
  .map(({ attribute, not, value }) => `${attribute} is ${not ? "not " : ""}"${value}"`);
const { condition } = fc.letrec<{ condition: string }>((tie) => ({
  condition: fc.oneof(
    { depthSize: "small" },
    test1,
    fc
      .tuple(tie("condition"), fc.constantFrom("and", "or"), tie("condition"))
      .map(([a, and, b]) => `(${a} ${and} ${b})`),
  ),
}));

test("whatever holds with all attributes known can hold with one of them known", () => {
  fc.assert(
    fc.property(
      condition,
      fc.record({
        metric: fc.constantFrom("a", "b", "c"),
        depot: fc.constantFrom("a", "b", "c"),
        kind: fc.constantFrom("a", "b", "c"),
      }),
      (text, attributes) => {
        const tree = parseCondition(text);
        if (predicate(tree)(attributes)) expect(mayMatch(tree, { metric: attributes.metric })).toBe(true);
        // With all of them known nothing is left open.
        expect(mayMatch(tree, attributes)).toBe(predicate(tree)(attributes));
      },
    ),
  );
});

test("what is known decides, what is not leaves it open", () => {
  const may = (text: string) => mayMatch(parseCondition(text), { metric: "loan.reserved" });
  expect(may("")).toBe(true);
  expect(may('metric is "loan.reserved" and depot is "Brindle"')).toBe(true);
  expect(may('metric starts with "locker" and depot is "Brindle"')).toBe(false);
  expect(may('metric starts with "locker" or depot is "Brindle"')).toBe(true);
});
