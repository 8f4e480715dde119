import type { Ladder } from "../reading/ladder";

/** What the API answers: shared by those who compute it and those who show it. Times in Unix ms. */

export interface LadderAnswer extends Ladder {
  service: string;
  environment: string;
  /** The histogram of calls that the ladder is read from; null where the service has none. */
  metric: string | null;
  /** All histograms that it could be read from. */
  metrics: string[];
  unit: string;
  failed: string;
  from: number;
  to: number;
  every: number;
  /** When each release was first and last heard at all. */
  heard: { release: string; firstAt: number; lastAt: number }[];
}

export interface RailAnswer {
  from: number;
  to: number;
  times: number[];
  /** Calls per second of the service, or null where nothing arrived. */
  traffic: (number | null)[];
  marks: { release: string; at: number }[];
}

/** A problem that the asker can do something about. */
export interface Problem {
  title: string;
  detail: string;
  position?: number;
  length?: number;
  hint?: string;
  /** What may stand at the place instead. */
  instead?: string;
}

export interface ServiceEntry {
  service: string;
  environment: string;
  /** When its newest release was first heard, Unix ms. */
  newestAt: number;
  lastAt: number;
}

export interface MetricEntry {
  name: string;
  kind: string;
  unit: string;
  temporality: string;
  monotonic: boolean;
  description: string;
}

export interface ReleaseEntry {
  release: string;
  firstAt: number;
  lastAt: number;
}

/** An attribute of a metric's series with its values, the first hundred of them. */
export interface AttributeEntry {
  name: string;
  values: string[];
}
