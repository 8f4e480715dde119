import type { Advice } from "../advice/advise";
import type { ContractEntry } from "../contract/contract";

/** Instruments as the API gives them: the catalogue, one metric's page. Times in Unix ms. */

/** One metric of the catalogue: all that ever arrived under a name, or was defined. */
export interface CatalogueEntry {
  name: string;
  kind: string;
  unit: string;
  temporality: string;
  monotonic: boolean;
  description: string;
  /** Further kinds or units under the same name. */
  variants: number;
  services: string[];
  /** Releases in which it was seen. */
  releases: number;
  attributes: string[];
  /** Series of the instances that report now, and ever. */
  seriesNow: number;
  series: number;
  /** The version of its contract; null where there is none. */
  contract: number | null;
  /** Findings that hold now. */
  findings: number;
}

/** An attribute of a metric with its values. */
export interface AttributeShare {
  name: string;
  /** Of points, or of the resource that sends them. */
  place: "point" | "resource";
  distinct: number;
  /** The most frequent values with the series that have them. */
  values: { value: string; series: number }[];
  /** Series that lack it. */
  missing: number;
  /** Series that would remain without it. */
  without: number;
}

export interface InstrumentAnswer {
  name: string;
  variants: {
    kind: string;
    unit: string;
    temporality: string;
    monotonic: boolean;
    description: string;
    firstAt: number;
    series: number;
  }[];
  series: number;
  seriesNow: number;
  /** Exact, of all series ever registered of instances that report now; of all where none does. */
  attributes: AttributeShare[];
  byRelease: { service: string; environment: string; release: string; series: number; lastAt: number | null }[];
  /** Series of the instances that were heard on each day, oldest first. */
  byDay: { day: number; series: number }[];
  exemplars: { at: number; value: number; traceId: string; spanId: string; attributes: Record<string, string> }[];
  contract: ContractEntry | null;
  findings: FindingEntry[];
}

/** Something that does not look as it should. */
export interface FindingEntry {
  id: number;
  metric: string;
  code: string;
  subject: string;
  service: string;
  environment: string;
  release: string;
  instance: string;
  detail: string;
  firstAt: number;
  lastAt: number;
  endedAt: number | null;
}

/** The last point of a series. */
export interface LatestPoint {
  resource: Record<string, string>;
  attributes: Record<string, string>;
  at: number;
  start: number | null;
  /** In words for people: a value, or count and sum. */
  value: number | null;
  count: number | null;
  sum: number | null;
}

export interface LatestAnswer {
  unit: string;
  points: LatestPoint[];
  /** Series that have a point, some of them not listed, and those that have one in the window itself. */
  series: number;
  heard: number;
  /** The listed ones as OpenMetrics text. */
  exposition: string;
}

export interface AdviceAnswer {
  advice: Advice | null;
  unit: string;
}
