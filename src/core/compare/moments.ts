/** The variance of what samples gave. */
export function variance(values: readonly number[]): number {
  const mean = values.reduce((total, value) => total + value, 0) / values.length;
  return values.reduce((total, value) => total + (value - mean) ** 2, 0) / Math.max(1, values.length - 1);
}
