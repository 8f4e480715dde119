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

/** Adds Poisson events to a cumulative histogram's state; min, max and sum follow from the buckets hit. */
export function histogramAdvance(random: Random, shape: Shape, part: number) {
  const { middles } = shape;
  const min = middles.length;
  return (state: Float64Array, { calls, slow }: Turn) => {
    const chances = shape.chances(slow);
    for (let b = 0; b < middles.length; b++) {
      const hits = poisson(random, calls * part * chances[b]);
      if (hits === 0) continue;
      state[b] += hits;
      const middle = middles[b];
      state[min + 2] += hits * middle;
      if (state[min] === 0 || middle < state[min]) state[min] = middle;
      if (middle > state[min + 1]) state[min + 1] = middle;
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
