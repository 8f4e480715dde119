import { metricText, serviceTests } from "@/core/reading/language/quote";
import type { ServicePlace } from "@/core/service/sections";

/** The charts below a ladder. */
export function ladderPlates(
  metric: string,
  { service, environment }: ServicePlace,
): { title: string; reading: string }[] {
  const of = `of ${metricText(metric)} where ${serviceTests(service, environment)} by release`;
  return [
    { title: "p95 of calls", reading: `p95 ${of}` },
    { title: "Calls per second", reading: `rate ${of}` },
  ];
}
