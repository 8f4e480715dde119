import type { Span } from "../span/model";
import { sampled } from "./sampling";
import type { TailStep } from "./steps";

/**
 * Deciding on whole traces. Spans wait until {@link TailStep.within} after the first of their trace came in; then the
 * trace is kept where one of them failed or took long, else with a share, by its id. What comes later follows the
 * decision of its trace as long as that is remembered.
 */

/** What was decided of a trace, and why. */
export interface Decision {
  kept: boolean;
  why: "error" | "slow" | "share";
}

/** @param spans of one trace, in any order */
export function decide({ errors, slower, share }: TailStep, spans: readonly Span[]): Decision {
  if (errors && spans.some(({ status }) => status === "error")) return { kept: true, why: "error" };
  if (slower !== null && spans.some(({ took }) => took > slower * 1e9)) return { kept: true, why: "slow" };
  return { kept: spans.length > 0 && sampled(spans[0], share) !== null, why: "share" };
}

/** The spans of a trace as a decision lets them go on: those kept by share say by which. */
export function decided({ share }: TailStep, spans: readonly Span[], { kept, why }: Decision): Span[] {
  if (!kept) return [];
  return why === "share" ? spans.flatMap((span) => sampled(span, share) ?? []) : [...spans];
}
