/**
 * Cells: the pieces of time that increases are cut into. Without a sliding window they are the steps themselves;
 * with one, the bounds of all windows together, so that each window is a run of whole cells.
 */
export interface Cells {
  bounds: Float64Array;
  /** Per step: its first cell and the one after its last. */
  first: Int32Array;
  after: Int32Array;
  /** Per step: seconds that it covers. */
  seconds: Float64Array;
  /** The first cell of the window itself, and the one after its last. */
  windowStart: number;
  windowEnd: number;
}

/** Cells for steps with these bounds and a sliding window of `over` ms (null for none). */
export function makeCells(steps: Float64Array, over: number | null): Cells {
  const count = steps.length - 1;
  const first = new Int32Array(count);
  const after = new Int32Array(count);
  const seconds = new Float64Array(count);
  if (over === null) {
    for (let i = 0; i < count; i++) {
      first[i] = i;
      after[i] = i + 1;
      seconds[i] = (steps[i + 1] - steps[i]) / 1000;
    }
    return { bounds: steps, first, after, seconds, windowStart: 0, windowEnd: count };
  }
  const moments = new Set<number>(steps);
  for (let i = 1; i <= count; i++) moments.add(steps[i] - over);
  const bounds = Float64Array.from(moments).sort();
  const place = new Map<number, number>();
  bounds.forEach((moment, i) => {
    place.set(moment, i);
  });
  for (let i = 0; i < count; i++) {
    first[i] = place.get(steps[i + 1] - over)!;
    after[i] = place.get(steps[i + 1])!;
    seconds[i] = over / 1000;
  }
  return { bounds, first, after, seconds, windowStart: place.get(steps[0])!, windowEnd: bounds.length - 1 };
}

/**
 * The same cells, but what a moment cuts ends there: the step (or sliding window) that holds it, and the window. Where
 * it lies before or after the whole window, they stay as they are.
 */
export function endedAt(cells: Cells, moment: number): Cells {
  const { bounds, windowStart, windowEnd } = cells;
  if (!(moment > bounds[windowStart] && moment < bounds[windowEnd])) return cells;
  let at = bounds.findIndex((bound) => bound >= moment);
  const isBound = bounds[at] === moment;
  const cut = isBound ? bounds : Float64Array.of(...bounds.subarray(0, at), moment, ...bounds.subarray(at));
  const shift = (place: number) => (isBound || place < at ? place : place + 1);
  const first = cells.first.map(shift);
  const after = cells.after.map(shift);
  const seconds = cells.seconds.slice();
  if (!isBound) at = cut.indexOf(moment);
  for (let i = 0; i < first.length; i++) {
    if (!(first[i] < at && at < after[i])) continue;
    after[i] = at;
    seconds[i] = (moment - cut[first[i]]) / 1000;
  }
  return { bounds: cut, first, after, seconds, windowStart: shift(windowStart), windowEnd: at };
}
