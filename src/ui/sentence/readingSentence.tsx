"use client";

import type { MetricIdentity } from "@/core/metric/model";
import { AGGREGATIONS, offeredFor, printAggregation } from "@/core/reading/aggregations";
import { readingStructure } from "@/core/reading/language/grammar";
import { printReading, printTest } from "@/core/reading/language/print";
import { metricText } from "@/core/reading/language/quote";
import {
  type Aggregation,
  type Condition,
  canonicalAttribute,
  type MeasureNode,
  ReadingError,
  type ReadingTree,
  shortAttribute,
  type Test,
} from "@/core/reading/language/tree";
import { printDuration } from "@/core/window/durationText";
import { DURATIONS } from "@/core/window/lengths";
import { useAttributes, useMetrics } from "../query/use";
import { Slot } from "./slot";
import type { SlotOption } from "./slotOptions";

/** A reading as a sentence whose parts are changed in place. */

/** What is offered of a metric that nobody has sent yet. */
const NOT_KNOWN = AGGREGATIONS.flatMap(({ offered }) => offered);
const WIDTHS = ["1m", "5m", "15m", "30m", "1h", "6h", "1d"];

function parsedMeasure(text: string): MeasureNode | string {
  try {
    const { expression } = readingStructure(text);
    return expression.type === "measure" ? expression : "only one measure fits here";
  } catch (error) {
    return error instanceof ReadingError ? error.message : String(error);
  }
}

function howFrom(text: string, metric: string): Aggregation | string {
  const parsed = parsedMeasure(`${text} of ${metricText(metric)}`);
  return typeof parsed === "string" ? parsed : parsed.aggregation;
}

function testsOf(condition: Condition | null): Test[] | null {
  if (condition === null) return [];
  if (condition.type === "test") return [condition.test];
  if (condition.type === "or") return null;
  const left = testsOf(condition.left);
  const right = testsOf(condition.right);
  return left && right ? [...left, ...right] : null;
}

function allOf(tests: readonly Test[]): Condition | null {
  return tests.reduce<Condition | null>(
    (left, test) => (left ? { type: "and", left, right: { type: "test", test } } : { type: "test", test }),
    null,
  );
}

function without<T>(list: readonly T[], place: number): T[] {
  return list.filter((_, i) => i !== place);
}

const REMOVE = "\u0000remove";

/** One measure as slots. */
function MeasureSentence({ node, onChange }: { node: MeasureNode; onChange: (node: MeasureNode) => void }) {
  const metrics = useMetrics();
  const attributes = useAttributes(node.metric);
  const entry = metrics.data?.find(({ name }) => name === node.metric);
  const howOptions: SlotOption[] = (entry ? offeredFor(entry as MetricIdentity) : NOT_KNOWN).map(({ text, note }) => ({
    value: text,
    note,
  }));
  const names = attributes.data ?? [];
  const attributeOptions = names.map(({ name, values }) => ({
    value: shortAttribute(name),
    note: `${values.length === 100 ? "100+" : values.length}`,
  }));
  const tests = testsOf(node.where);
  const valuesOf = (attribute: string) => names.find(({ name }) => name === attribute)?.values ?? [];
  const setTests = (next: readonly Test[]) => onChange({ ...node, where: allOf(next) });

  return (
    <>
      <Slot
        name="measure"
        options={howOptions}
        accept={(text) => {
          const how = howFrom(text, node.metric);
          return typeof how === "string" ? how : null;
        }}
        placeholder="p95, rate, share under 300 ms…"
        onChoose={(value) => {
          const how = howFrom(value, node.metric);
          if (typeof how !== "string") onChange({ ...node, aggregation: how });
        }}
      >
        {printAggregation(node.aggregation)}
      </Slot>{" "}
      of{" "}
      <Slot
        name="metric"
        options={[...new Map((metrics.data ?? []).map((one) => [one.name, one])).values()].map(({ name, unit }) => ({
          value: name,
          note: unit,
        }))}
        onChoose={(metric) => onChange({ ...node, metric })}
      >
        {node.metric}
      </Slot>
      {node.numerator && node.numerator.type === "test" && <> that {printTest(node.numerator.test)}</>}
      {tests?.map((test, i) => (
        <span key={`${printTest(test)}`}>
          {i === 0 ? " where " : " and "}
          <Slot
            name="test attribute"
            options={[...attributeOptions, { value: REMOVE, label: "take this test out" }]}
            onChoose={(value) =>
              setTests(
                value === REMOVE
                  ? without(tests, i)
                  : tests.map((one, j) => (j === i ? ({ ...one, attribute: canonicalAttribute(value) } as Test) : one)),
              )
            }
          >
            {shortAttribute(test.attribute)}
          </Slot>{" "}
          {test.operator === "is" || test.operator === "is not" ? (
            <>
              <Slot
                name="comparison"
                options={[{ value: "is" }, { value: "is not" }]}
                onChoose={(operator) =>
                  setTests(tests.map((one, j) => (j === i ? ({ ...one, operator } as Test) : one)))
                }
              >
                {test.operator}
              </Slot>{" "}
              <Slot
                name="value"
                options={valuesOf(test.attribute).map((value) => ({ value }))}
                accept={() => null}
                onChoose={(value) =>
                  setTests(
                    tests.map((one, j) => (j === i ? ({ ...one, value: { type: "literal", value } } as Test) : one)),
                  )
                }
              >
                {test.value.type === "literal" ? String(test.value.value) : `<${test.value.name}>`}
              </Slot>
            </>
          ) : (
            <span className="num">
              {printTest(test).slice(
                printTest(test).indexOf(shortAttribute(test.attribute)) + shortAttribute(test.attribute).length,
              )}
            </span>
          )}
        </span>
      ))}
      {tests === null && <span className="text-muted"> where (tests with “or”: edit as text)</span>}
      {tests && (
        <>
          {" "}
          <Slot
            name="another test"
            placeholder="attribute is value"
            options={names.flatMap(({ name, values }) =>
              values.slice(0, 12).map((value) => ({
                value: JSON.stringify([name, value]),
                label: `${shortAttribute(name)} is ${value}`,
              })),
            )}
            onChoose={(chosen) => {
              const [attribute, value] = JSON.parse(chosen) as [string, string];
              setTests([...tests, { attribute, operator: "is", value: { type: "literal", value } }]);
            }}
          >
            {tests.length === 0 ? "where anything" : "and…"}
          </Slot>
        </>
      )}{" "}
      by{" "}
      {node.by.map((attribute, i) => (
        <span key={attribute}>
          {i > 0 && ", "}
          <Slot
            name="grouping"
            options={[...attributeOptions, { value: REMOVE, label: "take this out" }]}
            onChoose={(value) =>
              onChange({
                ...node,
                by:
                  value === REMOVE
                    ? without(node.by, i)
                    : [...new Set(node.by.map((one, j) => (j === i ? canonicalAttribute(value) : one)))],
              })
            }
          >
            {shortAttribute(attribute)}
          </Slot>
        </span>
      ))}
      {node.by.length > 0 && " "}
      <Slot
        name="another grouping"
        options={attributeOptions.filter(({ value }) => !node.by.includes(canonicalAttribute(value)))}
        onChoose={(value) => onChange({ ...node, by: [...node.by, canonicalAttribute(value)] })}
      >
        {node.by.length === 0 ? "nothing" : "and…"}
      </Slot>{" "}
      over{" "}
      <Slot
        name="sliding window"
        options={[{ value: REMOVE, label: "each step" }, ...WIDTHS.map((value) => ({ value }))]}
        accept={(text) => {
          const parsed = parsedMeasure(`rate of x over ${text}`);
          return typeof parsed === "string" ? parsed : null;
        }}
        onChoose={(value) => {
          if (value === REMOVE) return onChange({ ...node, over: null });
          const parsed = parsedMeasure(`rate of x over ${value}`);
          if (typeof parsed !== "string") onChange({ ...node, over: parsed.over });
        }}
      >
        {node.over === null ? "each step" : printDuration(node.over)}
      </Slot>
      {node.limit && <> {`${node.limit.end} ${node.limit.count}`}</>}
      {node.shifted !== null && <> shifted {printDuration(node.shifted)}</>}
      {node.every !== null && node.every >= DURATIONS.ms && <> every {printDuration(node.every)}</>}
    </>
  );
}

/** The whole reading as a sentence; arithmetic of several measures stays text. */
export function ReadingSentence({ tree, onChange }: { tree: ReadingTree; onChange: (text: string) => void }) {
  const { expression } = tree;
  if (expression.type !== "measure") {
    return <p className="text-muted">A reading of several measures is edited as text.</p>;
  }
  return (
    <p className="text-[15px] leading-8">
      <MeasureSentence node={expression} onChange={(node) => onChange(printReading({ ...tree, expression: node }))} />
    </p>
  );
}
