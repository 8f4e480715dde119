import { expectInDocument } from "../../document/testing/inDocument";
import { type AnyStep, kindOf, STEPS, STEPS_OF } from ".";
import { stepsTable } from "./document";
import type { Fragment } from "./sentence";

const IDS = { id: "one", where: "" };

/** Every kind in every lane that it may stand in, as it begins. */
const all = Object.entries(STEPS_OF).flatMap(([signal, steps]) =>
  steps.map((step) => {
    const schema = signal === "metrics" ? step.metricSchema : step.recordSchema;
    const config = schema.parse({ ...IDS, type: step.type, ...step.blank }) as AnyStep;
    return { signal, type: step.type, config, fields: Object.keys(schema.shape) };
  }),
);

function fieldsOf(fragments: readonly Fragment[]): string[] {
  return fragments.flatMap((one) => {
    if (typeof one === "string") return [];
    if (one.slot === "folds") return ["folds", "own"];
    return one.slot === "beside" ? fieldsOf(one.fragments) : [one.field];
  });
}

test.each(all)(
  "$type for $signal: its sentence has slots for settings that it has, each once",
  ({ config, fields }) => {
    const slots = fieldsOf(kindOf(config).sentence(config));
    expect(new Set(slots).size).toBe(slots.length);
    expect(fields).toEqual(expect.arrayContaining(slots));
  },
);

test.each(all)("$type for $signal: every setting of its own can be changed in some form of the sentence", (one) => {
  const own = one.fields.filter((field) => !["id", "on", "where", "type"].includes(field));
  const { config } = one;
  const forms = [config, { ...config, what: "histogram" }, { ...config, format: "pattern" }] as AnyStep[];
  const slots = new Set(forms.flatMap((form) => fieldsOf(kindOf(config).sentence(form))));
  expect(own.filter((field) => !slots.has(field))).toEqual([]);
});

test("a kind that works on windows says how, and one that shows values says of which attributes", () => {
  for (const { config, signal } of all) {
    const { windowed, window, waits, tried, shape } = kindOf(config);
    if (signal === "metrics" && windowed !== undefined) expect(window ?? waits).toBeDefined();
    if (tried) expect(shape).toBeDefined();
  }
});

test("types and names are told apart", () => {
  expect(new Set(STEPS.map(({ type }) => type)).size).toBe(STEPS.length);
  expect(new Set(STEPS.map(({ name }) => name)).size).toBe(STEPS.length);
});

test("the table of docs/pipeline.md is that of the steps", () => {
  expectInDocument("docs/pipeline.md", "steps", stepsTable());
});
