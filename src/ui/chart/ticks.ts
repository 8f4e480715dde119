/**
 * Round values for an axis from 0 (or from `low`, where that is below 0) to at least `high`.
 *
 * @param exact whether the axis begins at `low`, also where that is above 0
 */
export function valueTicks(low: number, high: number, wanted = 4, exact = false): number[] {
  const bottom = exact ? low : Math.min(0, low);
  const top = high > bottom ? high : bottom + 1;
  const rough = (top - bottom) / wanted;
  const size = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 2.5, 5, 10].map((factor) => factor * size).find((one) => one >= rough * 0.999) ?? size * 10;
  const ticks: number[] = [];
  for (let i = Math.floor(bottom / step); i * step < top + step * 0.999; i++)
    ticks.push(Number((i * step).toPrecision(12)));
  return ticks;
}

const MOST_ON_LOG = 8;

/** Values for a logarithmic axis from at most `low` to at least `high`: powers of ten, with twos and fives where they are few. */
export function logTicks(low: number, high: number): number[] {
  const first = Math.floor(Math.log10(low) + 1e-9);
  const last = Math.max(first + 1, Math.ceil(Math.log10(high) - 1e-9));
  const decades = last - first;
  const parts = decades <= 2 ? [1, 2, 5] : [1];
  const stride = Math.ceil(decades / MOST_ON_LOG);
  const all: number[] = [];
  for (let power = first; power < last; power += stride) for (const part of parts) all.push(part * 10 ** power);
  all.push(10 ** (first + Math.ceil(decades / stride) * stride));
  // No more room below and above than there has to be.
  const from = all.findLastIndex((tick) => tick <= low * (1 + 1e-9));
  const to = all.findIndex((tick) => tick >= high * (1 - 1e-9));
  return all
    .slice(Math.max(0, from), to < 0 ? all.length : Math.max(to, from + 1) + 1)
    .map((tick) => Number(tick.toPrecision(12)));
}
