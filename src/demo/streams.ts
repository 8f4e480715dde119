import type { Attributes, Kind, Layout } from "@/core/metric/model";
import type { KnownSeries } from "@/core/otlp/dictionary";
import { poisson, type Random } from "./random";
import type { Shape } from "./shapes";

/** Series of the past as they go on from point to point. */

/** A cumulative or level series of one instance that goes on turn by turn. */
export interface Stream {
  series: KnownSeries;
  layout: Layout;
  /** Values of now, in the layout's column order. */
  state: Float64Array;
  /** Adds the events of a turn. */
  advance: (state: Float64Array, turn: Turn) => void;
}

/** What one point covers. */
export interface Turn {
  time: number;
  /** How long it is since the point before, ms. */
  every: number;
  /** Calls to this instance meanwhile, on average. */
  calls: number;
  up: number;
  slow: number;
}

export const NUMBER: Layout = { kind: "number" };

/** Adds a stream to a life. */
export type AddStream = (
  instrument: Instrument,
  attributes: Attributes,
  layout: Layout,
  advance: Stream["advance"],
) => void;

/** With fewer events than this in each bucket on average, each event is put where it belongs. */
const FEW = 0.5;

/** The first bucket that a number in [0, 1) falls into, or the last one. */
function bucketAt(upTo: readonly number[], place: number): number {
  let from = 0;
  let to = upTo.length - 1;
  while (from < to) {
    const middle = (from + to) >> 1;
    if (place < upTo[middle]) to = middle;
    else from = middle + 1;
  }
  return from;
}

/** Adds Poisson events to a cumulative histogram's state; min, max and sum follow from the buckets hit. */
export function histogramAdvance(random: Random, shape: Shape, part: number) {
  const { middles } = shape;
  const min = middles.length;
  const hit = (state: Float64Array, bucket: number, hits: number) => {
    const middle = middles[bucket];
    state[bucket] += hits;
    state[min + 2] += hits * middle;
    if (state[min] === 0 || middle < state[min]) state[min] = middle;
    if (middle > state[min + 1]) state[min + 1] = middle;
  };
  return (state: Float64Array, { calls, slow }: Turn) => {
    const mean = calls * part;
    const { each, upTo } = shape.chances(slow);
    if (mean < middles.length * FEW) {
      for (let events = poisson(random, mean); events > 0; events--) hit(state, bucketAt(upTo, random()), 1);
      return;
    }
    for (let b = 0; b < middles.length; b++) {
      const hits = poisson(random, mean * each[b]);
      if (hits > 0) hit(state, b, hits);
    }
  };
}

export interface Instrument {
  name: string;
  kind: Kind;
  unit: string;
  description: string;
}

export function instrument(name: string, kind: Kind, unit: string, description: string): Instrument {
  return { name, kind, unit, description };
}

export const MEMORY = instrument("process.memory.usage", "gauge", "By", "Memory in use by the process");
