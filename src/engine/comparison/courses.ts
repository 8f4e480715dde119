import type { ComparisonAnswer } from "@/core/api/comparison";
import type { HeldValue } from "@/core/api/held";
import { parseReading } from "@/core/reading/language/parse";
import { metricText } from "@/core/reading/language/quote";
import type { MeasureNode } from "@/core/reading/language/tree";
import { evaluateMeasure } from "@/core/reading/measure";
import type { Source } from "@/core/reading/source";
import { HOUR, MINUTE } from "@/core/window/lengths";
import { defaultStep } from "@/core/window/steps";
import type { Loader } from "../load";
import { callsOf, ofRelease, settledOf } from "./calls";
import type { ReleasePlace } from "./pairing";

/** How both releases did from the start of their stays on. */

/** Longest that is shown, ms. */
const LONGEST = 24 * HOUR;
/** Steps are no shorter than those of so many in the whole. */
const STEPS = 60;

type Course = NonNullable<ComparisonAnswer["courses"]>["candidate"];

function courseOf(source: Source, metric: string, failed: string, bounds: Float64Array): Course {
  const until = settledOf(source);
  const values = (text: string): (number | null)[] => {
    const node = parseReading(text).expression as MeasureNode;
    const { rows } = evaluateMeasure(node, source, bounds, {});
    return Array.from({ length: bounds.length - 1 }, (_, i) => {
      const value = rows[0]?.values[i] ?? Number.NaN;
      return Number.isFinite(value) && bounds[i + 1] <= until ? value : null;
    });
  };
  const name = metricText(metric);
  return {
    p95: values(`p95 of ${name}`),
    rate: values(`rate of ${name}`),
    errors: values(`share of ${name} that ${failed}`),
  };
}

/**
 * @param starts when each began to serve, and until when the candidate is looked at, Unix ms
 * @returns null where the candidate began too lately
 */
export async function coursesOf(
  loader: Loader,
  metric: string,
  failed: string,
  sides: { candidate: ReleasePlace; baseline: ReleasePlace },
  hold: readonly HeldValue[],
  starts: { candidate: number; baseline: number; until: number },
): Promise<ComparisonAnswer["courses"]> {
  const length = Math.min(LONGEST, starts.until - starts.candidate);
  if (length < 2 * MINUTE) return null;
  const every = defaultStep(0, (length * 300) / STEPS, MINUTE);
  const read = async (place: ReleasePlace, start: number) => {
    const from = Math.floor(start / MINUTE) * MINUTE;
    const bounds = Float64Array.from({ length: Math.floor(length / every) + 1 }, (_, i) => from + i * every);
    const source = ofRelease(await callsOf(loader, metric, place, hold, bounds), place.release);
    return { from, course: courseOf(source, metric, failed, bounds) };
  };
  const candidate = await read(sides.candidate, starts.candidate);
  const baseline = await read(sides.baseline, starts.baseline);
  return {
    every,
    since: { candidate: candidate.from, baseline: baseline.from },
    candidate: candidate.course,
    baseline: baseline.course,
  };
}
