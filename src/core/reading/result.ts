/** What a reading answers. */

/** Points as they arrived, or rolled up to minutes or hours. */
export type Resolution = "raw" | "minute" | "hour";

export interface Warning {
  code: string;
  message: string;
}

export interface ReadingSeries {
  labels: Record<string, string | null>;
  /** The values that it counts, above low and up to high, where it is one of a spread; null: no bound on that side. */
  band?: { low: number | null; high: number | null };
  /** One per step; null where nothing arrived. */
  values: (number | null)[];
  /** Bounds of the true value, only where values have bounds; null in a place: no bound on that side. */
  low?: (number | null)[];
  high?: (number | null)[];
  /** The value of the whole window, computed over the whole window. */
  total: number | null;
  /** The moment after which this one's values may still change; left out where all are settled. */
  settledTo?: number;
  totalLow?: number | null;
  totalHigh?: number | null;
}

/** A service in an environment; "" where a sender names none. */
export interface ServicePlace {
  service: string;
  environment: string;
}

export interface ReadingResult {
  reading: string;
  unit: string;
  /** The unit of the bands of a spread. */
  bandUnit?: string;
  /** Whether values without unit are parts of a whole. */
  share: boolean;
  from: number;
  to: number;
  every: number;
  /** Ends of the steps, Unix ms. */
  times: number[];
  /** The moment after which values may still change as instances report, Unix ms; null where all is settled. */
  settledTo: number | null;
  series: ReadingSeries[];
  warnings: Warning[];
  /** Whose series were read; of many only the first. */
  services: ServicePlace[];
  /** The coarsest resolution that was read, and all of them, finest first. */
  resolution: Resolution;
  resolutions: Resolution[];
}

/** What tells a series of an answer from the others: its labels, and the values that it counts where it is one of a spread. */
export function seriesKey({ labels, band }: Pick<ReadingSeries, "labels" | "band">): string {
  return JSON.stringify([Object.entries(labels).sort(([a], [b]) => (a < b ? -1 : 1)), band]);
}

/** How many steps of an answer, or of one series of it, are over and settled: the first so many. */
export function settledSteps(times: readonly number[], { settledTo }: { settledTo?: number | null }): number {
  if (settledTo == null) return times.length;
  const at = times.findIndex((end) => end > settledTo);
  return at < 0 ? times.length : at;
}
