/** Logarithmic axes, told by the bounds of their bins, rising. */

/** Where a value stands on an axis of so many pixels; what lies beyond stands at its end. */
export function placeOn(axis: readonly number[], value: number, width: number): number {
  const low = axis[0];
  const high = axis[axis.length - 1];
  if (value <= low) return 0;
  return Math.min(1, Math.log(value / low) / Math.log(high / low)) * width;
}

/** What a value's text takes, px. */
const ROOM = 56;

/**
 * Round values for a logarithmic axis: 1, 2.5 and 5 of each power of ten, thinned where their texts would crowd.
 *
 * @param atStart texts around a place nearer to the beginning than this begin at it instead, px
 */
export function axisTicks(axis: readonly number[], width: number, atStart = 0): { value: number; x: number }[] {
  if (axis.length === 0) return [];
  const ticks: { value: number; x: number }[] = [];
  const middleOf = (x: number) => (x < atStart ? x + atStart : x);
  for (let power = Math.floor(Math.log10(axis[0])); power <= Math.log10(axis[axis.length - 1]); power++) {
    for (const factor of [1, 2.5, 5]) {
      const value = Number((factor * 10 ** power).toPrecision(3));
      if (value < axis[0] || value > axis[axis.length - 1]) continue;
      const x = placeOn(axis, value, width);
      if (ticks.every((tick) => x - middleOf(tick.x) > ROOM) && x < width - 20) ticks.push({ value, x });
    }
  }
  return ticks;
}
