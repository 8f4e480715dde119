/** The standard normal distribution function (Abramowitz and Stegun 1964, 7.1.26; error below 2e-7). */
export function normalBelow(x: number): number {
  const t = 1 / (1 + 0.3275911 * (Math.abs(x) / Math.SQRT2));
  const tail = ((((1.061405429 * t - 1.453152027) * t + 1.421413741) * t - 0.284496736) * t + 0.254829592) * t;
  const erf = 1 - tail * Math.exp((-x * x) / 2);
  return x >= 0 ? (1 + erf) / 2 : (1 - erf) / 2;
}

/** The chance of each bucket for a lognormal value: one more than there are bounds. */
export function bucketChances(median: number, sigma: number, bounds: readonly number[]): number[] {
  let below = 0;
  const chances = bounds.map((bound) => {
    const upTo = normalBelow(Math.log(bound / median) / sigma);
    const chance = upTo - below;
    below = upTo;
    return chance;
  });
  chances.push(Math.max(0, 1 - below));
  return chances;
}
