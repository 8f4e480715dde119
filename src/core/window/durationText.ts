import { DURATIONS } from "./lengths";

/** A duration in the largest unit that holds it as a whole: 300000 ms is "5m". */
export function printDuration(ms: number): string {
  for (const unit of ["w", "d", "h", "m", "s"]) if (ms % DURATIONS[unit] === 0) return `${ms / DURATIONS[unit]}${unit}`;
  return `${ms}ms`;
}
