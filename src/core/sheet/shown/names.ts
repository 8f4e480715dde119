import { canonicalAttribute } from "../../reading/language/tree";
import type { ReadingSeries } from "../../reading/result";

/** How series are called. */

const LABEL = /\{([^{}]+)\}/g;

function valueWords(value: string | null | undefined): string {
  if (value == null) return "none";
  return value === "" ? "(empty)" : value;
}

/** A series by a pattern in which {label} stands for a label's value; without one, by the values of all its labels. */
export function nameOf({ labels }: Pick<ReadingSeries, "labels">, pattern: string, without = "all"): string {
  if (pattern !== "")
    return pattern.replace(LABEL, (_, label: string) => valueWords(labels[label] ?? labels[canonicalAttribute(label)]));
  const values = Object.values(labels);
  return values.length === 0 ? without : values.map(valueWords).join(" · ");
}
