/** Round values for an axis from 0 (or from `low`, where that is below 0) to at least `high`. */
export function valueTicks(low: number, high: number, wanted = 4): number[] {
  const bottom = Math.min(0, low);
  const top = high > bottom ? high : bottom + 1;
  const rough = (top - bottom) / wanted;
  const size = 10 ** Math.floor(Math.log10(rough));
  const step = [1, 2, 2.5, 5, 10].map((factor) => factor * size).find((one) => one >= rough * 0.999) ?? size * 10;
  const ticks: number[] = [];
  for (let i = Math.floor(bottom / step); i * step < top + step * 0.999; i++)
    ticks.push(Number((i * step).toPrecision(12)));
  return ticks;
}
