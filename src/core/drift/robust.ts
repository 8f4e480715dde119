/** Middles and spreads that a few odd values do not move. */

/** The median; NaN of nothing. */
export function median(values: ArrayLike<number>): number {
  const sorted = Float64Array.from(values).sort();
  const middle = sorted.length >> 1;
  if (sorted.length === 0) return Number.NaN;
  return sorted.length % 2 === 1 ? sorted[middle] : (sorted[middle - 1] + sorted[middle]) / 2;
}

/** What a median of absolute deviations is multiplied by to stand for a standard deviation, where values are normal. */
const TO_DEVIATION = 1.4826;

/** The standard deviation as the median of absolute deviations tells it (Hampel 1974). */
export function deviation(values: ArrayLike<number>): number {
  const middle = median(values);
  return TO_DEVIATION * median(Float64Array.from(values, (value) => Math.abs(value - middle)));
}
