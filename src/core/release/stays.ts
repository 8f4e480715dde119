/** Stays: the spans in which a release served. What is served again after it was gone is another stay of the same release. */

export interface Stay {
  from: number;
  to: number;
}

/** Steps without calls after which a release was gone, and not only quiet. */
const GONE = 3;

/**
 * The stays of a release, from its calls by step.
 *
 * @param bounds of the steps, rising, Unix ms
 * @param calls by step; NaN where nothing is known
 * @param others calls of the service's other releases by step: a release is gone only where others are called meanwhile
 */
export function staysOf(bounds: ArrayLike<number>, calls: ArrayLike<number>, others: ArrayLike<number>): Stay[] {
  const stays: Stay[] = [];
  let missed = 0;
  for (let i = 0; i < calls.length; i++) {
    if (!(calls[i] > 0)) {
      if (others[i] > 0) missed++;
      continue;
    }
    const last = stays.at(-1);
    if (last && missed < GONE) last.to = bounds[i + 1];
    else stays.push({ from: bounds[i], to: bounds[i + 1] });
    missed = 0;
  }
  return stays;
}
