import type { Attributes } from "../../metric/model";
import { MAX_TIME } from "../../metric/pointLimits";
import type { KnownSeries } from "../dictionary";
import { attributesProblem } from "../limits";

/** A measurement kept beside a point (OpenTelemetry metrics data model, "Exemplars"). */
export interface Exemplar {
  series: KnownSeries;
  ms: number;
  ns: number;
  value: number;
  traceId: string;
  spanId: string;
  attributes: Attributes;
}

/** Why one cannot be kept; null where it can. */
export function exemplarProblem({ ms, ns, traceId, spanId, attributes }: Exemplar): string | null {
  if (ms > MAX_TIME || ns >= 1_000_000) return "its time is beyond the year 9999";
  if (traceId.length > 32 || spanId.length > 16) return "its ids are longer than 16 and 8 bytes";
  return attributesProblem(attributes);
}
