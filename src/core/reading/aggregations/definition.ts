import type { MetricIdentity } from "../../metric/model";
import type { SeriesGroup } from "../grouping";
import type { Aggregation } from "../language/tree";
import type { Context, MeasureResult } from "../rows";

/** What an aggregation is: all that is known of one way to sum a metric up, in one place. */

/** What is read of the text of a measure. */
export interface Words {
  /** The word that comes next. */
  word: string;
  /** Goes past words where they come next, all of them. */
  take: (...words: string[]) => boolean;
  number: () => number;
  /** A unit right behind a number; "" where there is none. */
  unit: () => string;
  /** @throws ReadingError at the next word */
  fail: (message: string, hint?: string) => never;
}

/** Kinds of metrics as people call them. */
export type KindWords = "counter" | "up-down counter" | "gauge" | "histogram" | "summary";

export interface AggregationKind<A extends Aggregation = Aggregation> {
  type: A["type"];
  /** How it is said to somebody who may ask it. */
  said: string;
  /** What may be written to begin it. */
  begins: readonly string[];
  /** What a sentence offers, and what that means; nothing where it needs more than a word. */
  offered: readonly { text: string; note: string }[];
  /** The kinds that it is offered for, of those that it goes with. */
  offeredFor?: (kind: KindWords) => boolean;
  /** Reads it where the next word begins it; null where that begins another. */
  parse: (words: Words) => A | null;
  print: (aggregation: A) => string;
  /** Whether a metric can answer it. */
  fits: (kind: KindWords, identity: MetricIdentity) => boolean;
  /** Whether it goes with "that". */
  takesThat?: boolean;
  /** Whether it reads sums of histograms beside their buckets. */
  readsSums?: boolean;
  answer: (context: Context, groups: SeriesGroup[], aggregation: A) => MeasureResult;
}

/** A kind that is one word. */
export function plainWord<T extends string>(type: T) {
  return {
    type,
    said: type,
    begins: [type],
    parse: (words: Words): { type: T } | null => (words.take(type) ? { type } : null),
    print: (): string => type,
  };
}

/** What counts: it has increases. */
export function counts(kind: KindWords, { temporality }: MetricIdentity): boolean {
  return (
    kind === "counter" ||
    kind === "histogram" ||
    kind === "summary" ||
    (kind === "up-down counter" && temporality === "delta")
  );
}
