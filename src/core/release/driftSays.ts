import type { Drift, DriftShift } from "../api/drift";
import { formatValue } from "../unit/format";
import { HOUR } from "../window/lengths";
import { changeText } from "./says";

/** What changed without a release, in words. */

const NAMES: Record<DriftShift["measure"], string> = { p95: "p95", errors: "errors", throughput: "calls per second" };

/** "p95 rose by 12 %". */
export function shiftText({ measure, change }: Pick<DriftShift, "measure" | "change">): string {
  const by = changeText(Math.abs(change), measure === "errors" ? "points" : "%").slice(1);
  return `${NAMES[measure]} ${change > 0 ? "rose" : "fell"} by ${by}`;
}

export function slopeText({ measure, week }: Drift["slopes"][number]): string {
  const by = changeText(Math.abs(week), measure === "errors" ? "points" : "%").slice(1);
  return `${NAMES[measure]} ${week > 0 ? "rises" : "falls"} by ${by} a week`;
}

/** "memory rises by 12 MiB an hour, and is freed by a start every 7 h". */
export function leakText({ hour, every, unit }: NonNullable<Drift["leak"]>): string {
  return `memory rises by ${formatValue(hour, unit)} an hour, and is freed by a start every ${Math.max(1, Math.round(every / HOUR + 1))} h`;
}
