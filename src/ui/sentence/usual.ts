import type { MetricEntry } from "@/core/api/answers";

/** The reading that a metric is usually asked first, by its kind. */
export function usualReading({
  name,
  kind,
  unit,
  monotonic,
}: Pick<MetricEntry, "name" | "kind" | "unit" | "monotonic">): string {
  if (kind === "histogram" || kind === "exponential") return `p95 of ${name} by release`;
  if (kind === "sum" && monotonic) return `rate of ${name} by release`;
  if (kind === "summary") return `mean of ${name} by release`;
  return unit === "By" ? `max of ${name} by service` : `last of ${name} by service`;
}

/** The reading that shows how a metric as a whole goes, in one line. */
export function overallReading({ name, kind, monotonic }: Pick<MetricEntry, "name" | "kind" | "monotonic">): string {
  const quoted = JSON.stringify(name);
  if (kind === "histogram" || kind === "exponential" || kind === "summary") return `rate of ${quoted}`;
  return kind === "sum" && monotonic ? `rate of ${quoted}` : `mean of ${quoted}`;
}
