import type { HeldValue } from "@/core/api/held";
import type { SideSource } from "@/core/reading/comparing/comparedCalls";
import type { ServicePlace } from "@/core/reading/result";
import type { Source } from "@/core/reading/source";
import { DAY, MINUTE } from "@/core/window/lengths";
import type { Loader } from "../load";
import { callsOf, countsOf, ofRelease, settledOf } from "./calls";

/** Which minutes of two releases are held against each other. */

/** A release of a service in an environment. */
export interface ReleasePlace extends ServicePlace {
  release: string;
}

export interface Pairing {
  way: "side by side" | "before and after";
  /** In words, which minutes are held against which. */
  pairing: string;
  /** The length of a minute, which may be several, ms. */
  minute: number;
  candidate: SideSource;
  baseline: SideSource;
  /** Calls of all releases of the service by minute; null where the two did not serve it at the same time. */
  all: Float64Array | null;
}

/** Minutes at most: of longer windows, several are one. */
const MOST_MINUTES = 360;
/** Fewer minutes in common are no comparison side by side. */
const LEAST_SHARED = 8;
/** How many days back the same clock times are looked for. */
const DAYS_BACK = 7;
/** The part of the minutes in which the baseline has calls, and the candidate or another release has hardly any. */
const MOSTLY = 0.8;

function minutesBetween(from: number, to: number, length: number): Float64Array {
  const first = Math.ceil(from / length) * length;
  const count = Math.max(0, Math.floor((to - first) / length));
  return Float64Array.from({ length: count + 1 }, (_, i) => first + i * length);
}

const has = (calls: Float64Array) => Array.from(calls.keys()).filter((minute) => calls[minute] > 0);

function sameService(one: ServicePlace, other: ServicePlace): boolean {
  return one.service === other.service && one.environment === other.environment;
}

/** Whether a release did nearly all of a service's calls in nearly all steps. */
function servedAlone(all: Source, own: Source, metric: string, bounds: Float64Array): boolean {
  const [total, some] = [countsOf(all, metric, bounds), countsOf(own, metric, bounds)];
  const alone = Array.from(some.keys()).filter((i) => some[i] > 0 && some[i] >= 0.98 * total[i]);
  return alone.length >= MOSTLY * some.length;
}

/**
 * Pairs the minutes of two releases: those of the window in which both had calls, where there are some; else the
 * candidate's with the same clock times of the nearest day before on which the baseline served alone; else with as many
 * right before it.
 *
 * @returns null where the candidate, or the baseline, has no calls there
 */
export async function pair(
  loader: Loader,
  metric: string,
  sides: { candidate: ReleasePlace; baseline: ReleasePlace },
  hold: readonly HeldValue[],
  { from, to }: { from: number; to: number },
  baselineLastAt: number,
): Promise<Pairing | null> {
  const minute = MINUTE * Math.max(1, Math.ceil((to - from) / MINUTE / MOST_MINUTES));
  const window = minutesBetween(from, to, minute);
  if (window.length < 2) return null;
  const alike = sameService(sides.candidate, sides.baseline);
  const all = await callsOf(loader, metric, sides.candidate, hold, window);
  const others = alike ? all : await callsOf(loader, metric, sides.baseline, hold, window);
  const [one, other] = [ofRelease(all, sides.candidate.release), ofRelease(others, sides.baseline.release)];
  const until = Math.min(settledOf(one), settledOf(other));
  const bounds = window.filter((bound) => bound <= until);
  if (bounds.length < 2) return null;
  const [candidate, baseline] = [
    { source: one, bounds },
    { source: other, bounds },
  ];
  const ours = countsOf(candidate.source, metric, bounds);
  const theirs = countsOf(baseline.source, metric, bounds);
  const busy = has(ours);
  if (busy.length === 0) return null;
  const itself = alike && sides.candidate.release === sides.baseline.release;
  const shared = itself ? [] : busy.filter((i) => theirs[i] > 0);
  if (shared.length >= LEAST_SHARED)
    return {
      way: "side by side",
      pairing: "the minutes in which both had calls",
      minute,
      candidate,
      baseline,
      all: alike ? countsOf(all, metric, bounds) : null,
    };
  // One after the other: the candidate's own span, and one of equal length before it.
  const [first, after] = [busy[0], busy[busy.length - 1] + 1];
  const own = bounds.slice(first, after + 1);
  const mine = { source: candidate.source, bounds: own };
  const result = (pairing: string, source: Source, cut: Float64Array): Pairing => ({
    way: "before and after",
    pairing,
    minute,
    candidate: mine,
    baseline: { source, bounds: cut },
    all: null,
  });
  for (let days = Math.max(1, Math.ceil((own[own.length - 1] - own[0]) / DAY)); days <= DAYS_BACK; days++) {
    const cut = own.map((bound) => bound - days * DAY);
    const then = await callsOf(loader, metric, sides.baseline, hold, cut);
    const source = ofRelease(then, sides.baseline.release);
    const served = itself
      ? has(countsOf(source, metric, cut)).length >= MOSTLY * own.length
      : servedAlone(then, source, metric, cut);
    if (!served) continue;
    return result(
      days === 1 ? "the same clock times of the day before" : `the same clock times ${days} days before`,
      source,
      cut,
    );
  }
  const end = Math.min(own[0], Math.ceil(baselineLastAt / minute) * minute);
  const cut = own.map((bound) => bound - own[own.length - 1] + end);
  const then = await callsOf(loader, metric, sides.baseline, hold, cut);
  const source = ofRelease(then, sides.baseline.release);
  if (has(countsOf(source, metric, cut)).length === 0) return null;
  return result("as long a span right before it", source, cut);
}
