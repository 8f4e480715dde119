import fc from "fast-check";
import { stringify } from "yaml";
import { type PipelineConfig, pipelineSchema } from "../pipeline/config";
import { differingLines } from "./lines";

const config = fc
  .uniqueArray(fc.constantFrom("a", "b", "c", "d", "e", "f"), { maxLength: 6 })
  .chain((ids) =>
    fc.record({
      metrics: fc.tuple(
        ...ids.map((id) =>
          fc.record({ id: fc.constant(id), type: fc.constant("drop"), where: fc.constantFrom("", 'metric is "x"') }),
        ),
      ),
    }),
  )
  .map((parts): PipelineConfig => pipelineSchema.parse(parts));

test("what both have or only the second has are its lines in their order, and the other way round", () => {
  fc.assert(
    fc.property(config, config, (first, second) => {
      const found = differingLines(first, second);
      const linesOf = (one: PipelineConfig) => stringify(one, { lineWidth: 0 }).split("\n");
      for (const [whole, other] of [
        [first, "second"],
        [second, "first"],
      ] as const)
        for (const stretch of found) {
          const own = stretch.filter((line) => line.in !== other).map(({ text }) => text);
          expect(`\n${linesOf(whole).join("\n")}\n`).toContain(`\n${own.join("\n")}\n`);
        }
      expect(found.length === 0).toBe(JSON.stringify(first) === JSON.stringify(second));
    }),
  );
});

test("only what differs is told, with three lines around it", () => {
  const steps = ["a", "b", "c", "d"].map((id) => ({ id, type: "drop", where: 'metric is "x"' }));
  const before = pipelineSchema.parse({ metrics: steps });
  const after = pipelineSchema.parse({ metrics: steps.map((one) => (one.id === "c" ? { ...one, on: false } : one)) });
  const [lines, ...more] = differingLines(before, after);
  expect(more).toEqual([]);
  expect(lines.filter((line) => line.in !== "both")).toEqual([
    { in: "first", text: "    on: true" },
    { in: "second", text: "    on: false" },
  ]);
  expect(lines).toHaveLength(8);
});
