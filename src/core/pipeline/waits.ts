import type { Batch } from "../otlp/batch/batch";
import type { Dictionary, KnownSeries } from "../otlp/dictionary";
import type { Increases } from "./increases";

/**
 * Up to when windows are closed when a step begins: the window that the beginning lies in is open, unless a step that it
 * takes the place of closed windows beyond that. What comes out bears the end of a window, so none may be given twice.
 *
 * @param closed up to when the step before closed its windows, Unix ms
 */
export function firstClosed(since: number, every: number, closed: number): number {
  return Math.max((Math.ceil(since / every) - 1) * every, Math.floor(closed / every) * every);
}

/** A step where points wait until their window closes. A window of length `every` holds the times (a, b]. */
export interface Waits<State> {
  /** What is remembered of its members' running totals. */
  readonly increases: Increases;
  /** Up to when windows are closed, Unix ms. */
  readonly closedUpTo: number;
  /** Points that came too late, and points that cannot be worked with. */
  readonly late: number;
  readonly refused: number;
  /** Why the last window gave nothing; null where it did. */
  readonly problem: string | null;
  boundAt(moment: number): number;
  boundAfter(moment: number): number;
  /**
   * Closes all windows up to a bound.
   *
   * @param batch every point that is due: none is later than `upTo`
   * @param upTo the bound of a window that is still open: each window gives its points once
   */
  advance(batch: Batch, upTo: number, dictionary: Dictionary): Batch;
  /** The series in which a member's points come out; null where that cannot be said of one alone. */
  targetOf(series: KnownSeries, dictionary: Dictionary): KnownSeries | null;
  save(): State;
}
