/** What an exponential histogram does with as many buckets (OpenTelemetry metrics data model, "ExponentialHistogram"). */
export interface ExponentialOffer {
  scale: number;
  /** Buckets that the range needs at this scale. */
  buckets: number;
  /** The width of each bucket relative to its lower bound: base − 1. */
  width: number;
}

const FINEST = 20;
const COARSEST = -10;

/** The finest scale whose buckets over (low, high] are no more than `most`. Both above 0. */
export function exponentialOffer(low: number, high: number, most: number): ExponentialOffer {
  for (let scale = FINEST; scale > COARSEST; scale--) {
    const per = 2 ** scale;
    const buckets = Math.ceil(Math.log2(high) * per) - Math.ceil(Math.log2(low) * per) + 1;
    if (buckets <= most) return { scale, buckets, width: 2 ** (1 / per) - 1 };
  }
  return { scale: COARSEST, buckets: 1, width: 2 ** (1 / 2 ** COARSEST) - 1 };
}
