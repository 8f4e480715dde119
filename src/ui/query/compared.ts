import { heldFrom } from "@/core/api/held";
import { MINUTE } from "@/core/window/lengths";
import type { Span } from "@/core/window/window";
import type { ComparedReleases } from "./questions";

/** What is compared, as addresses hold it. */

/** Between values that everything is held to. */
export const HOLD_SEPARATOR = ";";

const WITHIN = encodeURIComponent(HOLD_SEPARATOR);

/** What an address compares a release by. */
export function comparedIn(parameters: URLSearchParams, release: string): ComparedReleases {
  const text = (name: string) => parameters.get(name) ?? "";
  const hold = text("hold");
  return {
    release,
    against: text("against"),
    againstService: text("againstService"),
    againstEnvironment: parameters.get("againstEnvironment") ?? undefined,
    metric: text("metric"),
    // A separator within a value is written as in addresses.
    hold: hold === "" ? [] : hold.split(HOLD_SEPARATOR).map((one) => heldFrom(one.replaceAll(WITHIN, HOLD_SEPARATOR))),
    by: text("by"),
  };
}

/** What is judged by the minute is asked by the minute. */
export function byTheMinute({ from, to }: Span): Span {
  return { from: Math.floor(from / MINUTE) * MINUTE, to: Math.floor(to / MINUTE) * MINUTE };
}

/** The address of a comparison. @param carried what goes along from page to page, such as ?last=6h */
export function comparisonAddress(
  carried: string,
  {
    service,
    environment,
    release,
    against,
  }: { service: string; environment: string; release: string; against: string },
): string {
  const parameters = new URLSearchParams(carried);
  parameters.set("service", service);
  if (environment !== "") parameters.set("environment", environment);
  parameters.set("release", release);
  parameters.set("against", against);
  return `/releases/two?${parameters}`;
}
