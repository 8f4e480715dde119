/** A release and when it was heard, Unix ms. */
export interface HeardRelease {
  release: string;
  firstAt: number;
  lastAt: number;
}

/** A release that is silent for so long does not serve any more, ms. */
const GONE = 5 * 60_000;

/**
 * The release that another one is held against.
 *
 * @param ordered all releases of the service, the newest first
 * @param against "" the one before it; "beside": the one that serves beside it, else the one before it; else a release,
 *   which may be itself: then it is held against what it did before
 * @returns null where there is none
 */
export function baselineFor(ordered: readonly HeardRelease[], release: string, against: string): HeardRelease | null {
  const place = ordered.findIndex((one) => one.release === release);
  const before = ordered.at(place + 1) ?? null;
  if (against === "beside") {
    const own = ordered[place];
    const beside = ordered.filter(
      (one) => one.release !== release && own && one.lastAt > own.firstAt && one.lastAt > own.lastAt - GONE,
    );
    // The longest there is the one that was there before.
    return beside.sort((a, b) => a.firstAt - b.firstAt).at(0) ?? before;
  }
  const fixed = ordered.find((one) => one.release === against);
  return fixed ?? before;
}
