import { expectInDocument } from "../../document/testing/inDocument";
import { parseReading } from "../language/parse";
import { type MeasureNode, ReadingError } from "../language/tree";
import { AGGREGATION_WORDS, AGGREGATIONS, parseAggregation, printAggregation } from ".";
import { aggregationsTable } from "./document";

const begun = AGGREGATIONS.flatMap((kind) => kind.begins.map((text) => ({ kind, text })));
const completed = (text: string) => (text.startsWith("share ") ? `${text} 3 s` : text);

test.each(begun)("$text begins an aggregation of its own kind, and is printed as it was written", ({ kind, text }) => {
  const that = kind.takesThat ? " that error.type is there" : "";
  const node = parseReading(`${completed(text)} of m${that}`).expression as MeasureNode;
  expect(node.aggregation.type).toBe(kind.type);
  expect(printAggregation(node.aggregation)).toBe(completed(text));
});

test("whatever a sentence offers can be asked as it stands", () => {
  for (const { offered, type } of AGGREGATIONS)
    for (const { text, note } of offered) {
      expect((parseReading(`${text} of m`).expression as MeasureNode).aggregation.type).toBe(type);
      expect(note).not.toBe("");
    }
});

test("each type is there once, and another word is none of them", () => {
  expect(new Set(AGGREGATIONS.map(({ type }) => type)).size).toBe(AGGREGATIONS.length);
  for (const word of AGGREGATION_WORDS) expect(() => parseReading(`${word}s of m`)).toThrow(ReadingError);
  const fail = (message: string): never => {
    throw new Error(message);
  };
  expect(parseAggregation({ word: "x", take: () => false, number: () => 0, unit: () => "", fail })).toBeNull();
});

test("the table of docs/readings.md is that of the aggregations", () => {
  expectInDocument("docs/readings.md", "verbs", aggregationsTable());
});
