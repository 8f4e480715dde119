import { type StepConfig, type StepType, stepSchema } from "@/core/pipeline/metricSteps";
import type { Fold } from "@/core/pipeline/parts";

/** What steps are called, and how a new one begins. */

export const STEP_WORDS: Record<StepType, { name: string; does: string }> = {
  drop: { name: "drop", does: "what matches goes no further" },
  keep: { name: "keep", does: "only what matches goes further" },
  remove: { name: "remove attributes", does: "series that differ in nothing else meet" },
  fold: { name: "fold values", does: "ids vanish into a pattern" },
  merge: { name: "merge series", does: "across attributes, into sum, mean, or how many" },
  slow: { name: "slow down", does: "fewer points, the same totals" },
  limit: { name: "limit series", does: "further ones go to an overflow series" },
  rename: { name: "rename an attribute", does: "the same value under another name" },
  copy: { name: "copy an attribute", does: "the same value under a second name" },
  set: { name: "set an attribute", does: "to one value" },
  hash: { name: "hash attributes", does: "told apart, but not told" },
  redact: { name: "redact attributes", does: "what a pattern finds becomes ***" },
  metric: { name: "rename a metric", does: "the same points under another name" },
  unit: { name: "change the unit", does: "values and unit together" },
  coarsen: { name: "coarsen histograms", does: "fewer buckets" },
  compute: { name: "compute a figure", does: "a gauge from a reading of each window" },
};

export const FOLD_WORDS: Record<Fold, string> = {
  numbers: "numbers",
  uuids: "UUIDs",
  hex: "hex",
  emails: "e-mail addresses",
  hosts: "addresses to hosts",
  paths: "addresses to paths",
};

const BLANKS: Partial<Record<StepType, object>> = {
  rename: { from: "attribute", to: "name" },
  copy: { from: "attribute", to: "name" },
  hash: { attributes: ["attribute"] },
  set: { attribute: "attribute", value: "value" },
  remove: { attributes: ["attribute"] },
  redact: { attributes: ["attribute"], pattern: "pattern" },
  fold: { attribute: "http.route", folds: ["numbers", "uuids"] },
  metric: { to: "name" },
  unit: { to: "ms" },
  merge: { attributes: ["service.instance.id"] },
  limit: { series: 1000 },
  compute: { reading: "count of errors / count of requests", to: "error.share" },
};

/** A new step of a type, with an id that no other has. */
export function newStep(type: StepType, steps: readonly StepConfig[]): StepConfig {
  let number = steps.length + 1;
  while (steps.some(({ id }) => id === `${type}-${number}`)) number++;
  const where = type === "drop" || type === "keep" ? 'metric is "name"' : "";
  return stepSchema.parse({ id: `${type}-${number}`, type, where, ...BLANKS[type] });
}
