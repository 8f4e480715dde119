import type { InstrumentKind } from "./contract";

/** Which kind of instrument fits, asked in words (OpenTelemetry metrics, "Supplementary guidelines", selection). */
export interface KindAnswers {
  /** Is it a measurement of each event (how long, how large) rather than one number? */
  eachEvent: boolean;
  /** For each event: are percentiles wanted? */
  percentiles: boolean;
  /** For each event: are its bounds known beforehand? */
  boundsKnown: boolean;
  /** Can the number go down? */
  goesDown: boolean;
  /** Does it make sense to add it up over instances? */
  addsUp: boolean;
}

export function kindFor({ eachEvent, percentiles, boundsKnown, goesDown, addsUp }: KindAnswers): {
  kind: InstrumentKind;
  why: string;
} {
  if (eachEvent && percentiles)
    return boundsKnown
      ? { kind: "histogram", why: "each event is measured and you know where the interesting bounds lie" }
      : { kind: "exponential histogram", why: "each event is measured and the buckets find their place by themselves" };
  if (eachEvent) return { kind: "counter", why: "without percentiles, counting the events and adding up is enough" };
  if (!goesDown)
    return { kind: "counter", why: "it only grows: rates come from its increase, and a restart is noticed" };
  return addsUp
    ? { kind: "up-down counter", why: "it goes up and down, and its sum over instances means something" }
    : { kind: "gauge", why: "it is what it is at a moment; adding it up over instances means nothing" };
}

/** What a kind is for, in a sentence. */
export const KIND_WORDS: Record<InstrumentKind, string> = {
  counter: "something that only grows: events, bytes sent",
  "up-down counter": "a number that goes up and down and adds up: jobs waiting, open doors",
  gauge: "a level that does not add up: temperature, share of memory in use",
  histogram: "a value per event, with percentiles between bounds that you choose",
  "exponential histogram": "a value per event, with percentiles and buckets that adapt",
};
