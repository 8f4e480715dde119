import { labelOf } from "../metric/labels";
import type { SeriesIdentity } from "../metric/model";
import { valueText } from "../metric/text";
import type { KnownSeries } from "../otlp/dictionary";
import { Dictionary } from "../otlp/dictionary";
import { eachStep } from "../pipeline/follow";
import type { Lane } from "../pipeline/lane";
import { RecordLane } from "../pipeline/recordLane";
import { passing, type TelemetryRecord } from "../pipeline/records";
import { type AnyStep, isCounting, kindOf, type RecordStep } from "../pipeline/steps";
import { canonicalAttribute } from "../reading/language/tree";

/** Steps that change values of attributes, tried on the values that come to them. */

/** What becomes of the values of one attribute at one step. */
export interface ValueDryRun {
  attribute: string;
  /** How many different ones come to the step, and how many of them leave it. */
  values: number;
  left: number;
  /** Some of them; those that change come first, the most frequent of each. */
  examples: { before: string; after: string }[];
}

const MAX_EXAMPLES = 4;

/** Attributes whose values a step changes; none for other steps. */
function changedBy(step: AnyStep): string[] {
  return (kindOf(step).tried?.(step) ?? []).map(canonicalAttribute);
}

/** Collects values before and after. */
class Values {
  private readonly found = new Map<string, { after: string; times: number }>();

  add(before: string, after: string): void {
    const known = this.found.get(before);
    if (known) known.times++;
    else this.found.set(before, { after, times: 1 });
  }

  dryRun(attribute: string): ValueDryRun {
    const all = [...this.found].map(([before, { after, times }]) => ({ before, after, times }));
    const changed = ({ before, after }: { before: string; after: string }) => Number(before !== after);
    // One example for each value that comes out says more than many that look alike.
    // Of several under one key the last stays, so the best come last.
    const rising = all.sort((a, b) => changed(a) - changed(b) || a.times - b.times);
    const apart = new Map(rising.map((one) => [one.after, one]));
    const best = [...apart.values()].sort((a, b) => changed(b) - changed(a) || b.times - a.times);
    const examples = best.slice(0, MAX_EXAMPLES).map(({ before, after }) => ({ before, after }));
    return { attribute, values: all.length, left: new Set(all.map(({ after }) => after)).size, examples };
  }
}

function textAt(identity: SeriesIdentity, name: string): string | null {
  const value = labelOf(identity, name);
  return value === undefined ? null : valueText(value);
}

/** Collects values at steps, by step and attribute. */
class AllValues {
  private readonly found = new Map<string, Map<string, Values>>();

  note(step: string, names: readonly string[], before: SeriesIdentity, after: SeriesIdentity): void {
    for (const name of names) {
      const value = textAt(before, name);
      if (value === null) continue;
      const own = this.found.get(step) ?? new Map<string, Values>();
      this.found.set(step, own);
      const values = own.get(name) ?? new Values();
      own.set(name, values);
      values.add(value, textAt(after, name) ?? "");
    }
  }

  dryRuns(): Record<string, ValueDryRun[]> {
    return Object.fromEntries(
      [...this.found].map(([step, own]) => [step, [...own].map(([name, values]) => values.dryRun(name))]),
    );
  }
}

/** What steps make of the values that series bring to them, by the ids of the steps. */
export function triedValues(lane: Lane, all: Iterable<KnownSeries>): Record<string, ValueDryRun[]> {
  const { steps } = lane.routes;
  const wanted = steps.map(({ config }) => (config.type === "counted" ? [] : changedBy(config)));
  if (wanted.every((names) => names.length === 0)) return {};
  const values = new AllValues();
  for (const one of all)
    eachStep(lane, one, (i, series) => {
      if (wanted[i].length === 0) return;
      const step = steps[i];
      values.note(step.config.id, wanted[i], series.identity, lane.routes.shaped(step, series).identity);
    });
  return values.dryRuns();
}

/** What steps make of the values that records bring to them. Steps before one that waits for traces let all go on. */
export function triedRecordValues(
  steps: readonly RecordStep[],
  records: readonly TelemetryRecord[],
): Record<string, ValueDryRun[]> {
  const on = steps.filter((step) => step.on);
  const values = new AllValues();
  for (const [i, step] of on.entries()) {
    const names = changedBy(step);
    const shape = kindOf(step).shape?.(step);
    if (names.length === 0 || !shape) continue;
    const before = on.slice(0, i).filter((one) => !kindOf(one).waitsForTrace && !isCounting(one));
    const come = new RecordLane(
      [...before, { id: "those", on: true, type: "keep", where: step.where }],
      new Dictionary(),
    );
    for (const record of come.admit(records, 0).out) {
      const { now } = passing(record);
      values.note(step.id, names, now, shape(now));
    }
  }
  return values.dryRuns();
}
