import { canonicalAttribute } from "../../reading/language/tree";
import type { ReadingSeries } from "../../reading/result";
import { digits } from "../../unit/format";

/** How series are called. */

/** A label in the pattern of a name. */
export const LABEL = /\{([^{}]+)\}/g;

function valueWords(value: string | null | undefined): string {
  if (value == null) return "none";
  return value === "" ? "(empty)" : value;
}

/** The values that a series of a spread counts: "0.1 to 0.25", "up to 5", "above 10". */
export function bandWords(
  { low, high }: NonNullable<ReadingSeries["band"]>,
  write: (value: number) => string = String,
): string {
  if (low === null) return high === null ? "all" : `up to ${write(high)}`;
  if (high === null) return `above ${write(low)}`;
  return low === high ? write(low) : `${write(low)} to ${write(high)}`;
}

/** A series by a pattern in which {label} stands for a label's value; without one, by the values of all its labels. */
export function nameOf(
  { labels, band }: Pick<ReadingSeries, "labels" | "band">,
  pattern: string,
  without = "all",
): string {
  const own = nameOfLabels(labels, pattern, band ? "" : without);
  if (!band) return own;
  const counted = bandWords(band, digits);
  return own === "" ? counted : `${own}, ${counted}`;
}

function nameOfLabels(labels: ReadingSeries["labels"], pattern: string, without: string): string {
  if (pattern !== "")
    return pattern.replace(LABEL, (_, label: string) => valueWords(labels[label] ?? labels[canonicalAttribute(label)]));
  const values = Object.values(labels);
  return values.length === 0 ? without : values.map(valueWords).join(" · ");
}
