import { type Attributes, FLAG, isLevel } from "../metric/model";
import { valueText } from "../metric/text";
import { countColumns } from "./increase";
import { type Picks, passes, predicate } from "./language/conditions";
import { nearest } from "./language/nearest";
import { printTest } from "./language/print";
import { attributeText, quoteText } from "./language/quote";
import type { Condition, MeasureNode, Test } from "./language/tree";
import type { Warning } from "./result";
import type { MetricSource } from "./source";

/** Why a reading has nothing to show. */

/** What is known where nothing came out. Times in Unix ms. */
export interface Circumstances {
  node: MeasureNode;
  picks: Picks;
  /** The window that the measure reads, shifted where it is. */
  from: number;
  to: number;
  /** First and last point that is stored of the metric, of whatever series; null where none is. */
  stored: { first: number; last: number } | null;
  /** Attributes of the series that the metric ever had (a part of very many). */
  known: readonly Attributes[];
  /** When series that pass last reported, as far as that is known; null where it is not. */
  lastMatched: number | null;
  /** What was read: the series that pass, with their points. */
  metrics: readonly MetricSource[];
}

function at(ms: number): string {
  return new Date(ms).toISOString();
}

function testsOf(condition: Condition | null): Test[] {
  if (condition === null) return [];
  if (condition.type === "test") return [condition.test];
  return condition.type === "and" ? [...testsOf(condition.left), ...testsOf(condition.right)] : [];
}

function looking(attributes: Attributes) {
  return (name: string) => (Object.hasOwn(attributes, name) ? attributes[name] : undefined);
}

const SHOWN = 4;

/** What stands in the way of a test that no series passes. */
function aboutTest(test: Test, picks: Picks, known: readonly Attributes[]): string {
  const { attribute } = test;
  const values = new Set<string>();
  for (const attributes of known)
    if (Object.hasOwn(attributes, attribute)) values.add(valueText(attributes[attribute]));
  if (values.size === 0) {
    const names = [...new Set(known.flatMap((attributes) => Object.keys(attributes)))];
    const near = nearest(attribute, names);
    return `none of its series has an attribute ${attributeText(attribute)}${near ? `; did you mean ${attributeText(near)}?` : ""}`;
  }
  const written = test.operator === "is" && test.value.type === "literal" ? String(test.value.value) : null;
  const near = written === null ? null : nearest(written, [...values]);
  if (near) return `none of its series passes ${printTest(test)}; did you mean ${quoteText(near)}?`;
  const some = [...values].slice(0, SHOWN).map(quoteText).join(", ");
  const more = values.size > SHOWN ? ` and ${values.size - SHOWN} more` : "";
  const picked = Object.keys(picks).length > 0 ? " with what is picked" : "";
  return `none of its series passes ${printTest(test)}${picked}; ${attributeText(attribute)} is ${some}${more}`;
}

function aboutWhere({ node, picks, known, lastMatched, from, to }: Circumstances): Warning {
  const { metric, where } = node;
  const all = predicate(where, picks);
  if (known.some((attributes) => all(attributes))) {
    const last = lastMatched === null ? "" : `; they last reported ${at(lastMatched)}`;
    const when = lastMatched !== null && lastMatched > to ? "reported" : "did not report";
    return {
      code: "no-match",
      message:
        when === "reported"
          ? `series of ${metric} pass the where tests, but none has points between ${at(from)} and ${at(to)}${last}`
          : `the series of ${metric} that pass the where tests did not report in this window${last}`,
    };
  }
  const failing = testsOf(where).find((test) => {
    const alone = passes({ type: "test", test }, picks);
    return !known.some((attributes) => alone(looking(attributes)));
  });
  const why = failing
    ? aboutTest(failing, picks, known)
    : "each test is passed by some series, but all of them by none";
  return { code: "no-match", message: `no series of ${metric} passes the where tests: ${why}` };
}

/** What of the points in a window can be counted or drawn. */
function lookAt({ metrics, from, to }: Circumstances) {
  const found = { inside: 0, valued: 0, before: Number.NEGATIVE_INFINITY, after: Number.POSITIVE_INFINITY };
  for (const { series } of metrics)
    for (const { parts } of series)
      for (const set of parts) {
        const columns = set.layout.kind === "levels" ? [set.columns[2]] : countColumns(set);
        for (let row = 0; row < set.count; row++) {
          const time = set.timeMs[row] + set.timeNs[row] / 1e6;
          if (time <= from) found.before = Math.max(found.before, time);
          else if (time > to) found.after = Math.min(found.after, time);
          else {
            found.inside++;
            const valued =
              !(set.flags[row] & FLAG.noRecordedValue) && columns.every((column) => Number.isFinite(column[row]));
            if (valued) found.valued++;
          }
        }
      }
  return found;
}

/** Says why a measure came out empty, in the order in which a person would look. */
export function whyEmpty(circumstances: Circumstances): Warning {
  const { node, from, to, stored, metrics } = circumstances;
  const { metric } = node;
  const nothing = (message: string): Warning => ({ code: "no-points", message });
  if (!stored) return nothing(`${metric} is known, but none of its points is stored any more`);
  const shifted = node.shifted === null ? "" : " that the reading is shifted to";
  if (stored.last <= from)
    return nothing(`nothing arrived for ${metric} in the window${shifted}; its last point is from ${at(stored.last)}`);
  if (stored.first > to)
    return nothing(
      `nothing of ${metric} is stored of the window${shifted}; its first point is from ${at(stored.first)}`,
    );
  const matched = metrics.some(({ series }) => series.length > 0);
  if (!matched && node.where) return aboutWhere(circumstances);
  const { inside, valued, before, after } = lookAt(circumstances);
  if (inside === 0) {
    const sides = [
      before > Number.NEGATIVE_INFINITY ? `the last before it is from ${at(before)}` : "",
      after < Number.POSITIVE_INFINITY ? `the first after it from ${at(after)}` : "",
    ].filter(Boolean);
    const about = sides.length > 0 ? `; ${sides.join(", ")}` : `; its last point is from ${at(stored.last)}`;
    return nothing(`nothing arrived for ${metric} in the window${shifted}${about}`);
  }
  if (valued === 0)
    return {
      code: "no-values",
      message: `${inside} points of ${metric} arrived in this window, and all of them say that there is no value, or one that is no number`,
    };
  if (metrics.some(({ identity }) => !isLevel(identity)))
    return {
      code: "only-a-base",
      message: `what arrived of ${metric} in this window are first points of running totals: what they add shows with the next ones`,
    };
  return nothing(`${metric} arrived in this window, but nothing of it is left to show`);
}
