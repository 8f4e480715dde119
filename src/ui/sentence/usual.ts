import type { MetricEntry } from "@/core/api/instruments";
import { metricText } from "@/core/reading/language/quote";

type Asked = Pick<MetricEntry, "name" | "kind" | "unit" | "monotonic">;

/**
 * The reading that a metric is usually asked first, by its kind.
 *
 * @param where tests that keep it to a part; `by`: attributes (as they are written) to tell apart instead of the usual
 */
export function usualReading({ name: plain, kind, unit, monotonic }: Asked, { where = "", by = "" } = {}): string {
  const name = metricText(plain) + (where && ` where ${where}`);
  if (kind === "histogram" || kind === "exponential") return `p95 of ${name} by ${by || "release"}`;
  if (kind === "sum" && monotonic) return `rate of ${name} by ${by || "release"}`;
  if (kind === "summary") return `mean of ${name} by ${by || "release"}`;
  return `${unit === "By" ? "max" : "last"} of ${name} by ${by || "service"}`;
}

/** The reading that shows how a metric as a whole goes, in one line. */
export function overallReading({ name, kind, monotonic }: Pick<MetricEntry, "name" | "kind" | "monotonic">): string {
  const quoted = metricText(name);
  if (kind === "histogram" || kind === "exponential" || kind === "summary") return `rate of ${quoted}`;
  return kind === "sum" && monotonic ? `rate of ${quoted}` : `mean of ${quoted}`;
}
