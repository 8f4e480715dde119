import { isLevel, type MetricIdentity } from "../metric/model";
import { MINUTE } from "../window/lengths";

/** So often something that a release had would have happened again before another one that lacks it is said to have lost it. */
const LEAST_EXPECTED = 30;
/** Where it is not known how often it happened, so long is waited, ms. */
const UNKNOWN = 10 * MINUTE;

/**
 * Whether a metric of one release would have come from the next by now. What counts seldom things, such as errors, comes with
 * the first of them: a release that has not had any yet lacks nothing. As many are awaited as leave little doubt where the
 * next one has a tenth of the traffic.
 *
 * @param level of counts their increase per second in the release that had it; null where it is not known
 * @param since for how long the next one could have sent it, ms
 */
export function wouldHaveCome(
  { level, ...metric }: Pick<MetricIdentity, "kind" | "monotonic" | "temporality"> & { level: number | null },
  since: number,
): boolean {
  if (isLevel(metric)) return true;
  return level === null ? since >= UNKNOWN : (level * since) / 1000 >= LEAST_EXPECTED;
}
