import type { ComparisonAnswer } from "../api/comparison";
import type { VerdictAnswer } from "../api/releaseVerdict";
import { digits, formatValue } from "../unit/format";

/** Verdicts in words. */

export type Judgement = "worse" | "better" | "same" | "not enough yet";

export const LATENCY_WORDS = {
  worse: "slower",
  better: "faster",
  same: "as quick",
  "not enough yet": "not enough yet",
} as const satisfies Record<Judgement, string>;

export const FAILURE_WORDS = {
  worse: "more errors",
  better: "fewer errors",
  same: "as many errors",
  "not enough yet": "not enough yet",
} as const satisfies Record<Judgement, string>;

/** A change in words: "+38 %", "±0 points". */
export function changeText(value: number, unit: "%" | "points"): string {
  const shown = digits(Math.abs(value) * 100);
  return `${value > 0 ? "+" : value < 0 ? "−" : "±"}${shown} ${unit}`;
}

/** Of figures that are shown with three digits, a difference below the last of them is none. */
const NOTHING = 1 / 2000;

/** Writes differences of two values: "+12 MiB", "±0 s"; of parts of a whole in points, as percent of them would be another thing. */
export function differenceText(
  [one, other]: readonly [number, number],
  unit: string,
  share = false,
): (value: number) => string {
  const least = NOTHING * Math.max(Math.abs(one), Math.abs(other));
  return (value) => {
    const none = Math.abs(value) < least;
    if (share) return changeText(none ? 0 : value, "points");
    if (none || value === 0) return `±${formatValue(0, unit)}`;
    return `${value > 0 ? "+" : ""}${formatValue(value, unit)}`;
  };
}

/** How long something takes, in words: "some 4 minutes". */
function roughly(ms: number): string {
  const minutes = ms / 60_000;
  if (minutes < 1.5) return "about a minute";
  if (minutes < 90) return `some ${Math.round(minutes)} minutes`;
  const hours = minutes / 60;
  return hours < 48 ? `some ${Math.round(hours)} hours` : `some ${Math.round(hours / 24)} days`;
}

/** Nobody waits for so long, ms. */
const TOO_LONG = 14 * 24 * 3600_000;

/** Which bounds would tell, in words: how far apart, and from where to where. */
function boundsText(bounds: readonly number[], unit: string): string {
  if (bounds.length < 2) return "";
  const apart = digits(Math.round((bounds[1] / bounds[0] - 1) * 1000) / 10);
  const [from, to] = [bounds[0], bounds[bounds.length - 1]].map((bound) => formatValue(bound, unit));
  return `; bounds ${apart} % apart from ${from} to ${to}, or exponential buckets, would tell`;
}

/** What is missing for a verdict, in words; null where nothing is, or nothing can be said. */
export function needsText(
  change: {
    verdict: string;
    tooWide: boolean;
    needs: { calls: number; time: number } | null;
    bounds?: readonly number[];
  },
  unit: string,
): string | null {
  if (change.verdict !== "not enough yet") return null;
  if (change.tooWide)
    return `its buckets are too wide, whatever the number of calls${boundsText(change.bounds ?? [], unit)}`;
  if (!change.needs) return "too few minutes to tell chance from change";
  if (change.needs.time > TOO_LONG)
    return "the difference lies so near the tolerance that no number of calls settles it";
  return `needs about ${digits(change.needs.calls)} more calls, ${roughly(change.needs.time)} at this rate`;
}

type Found = NonNullable<ComparisonAnswer["found"]>;

export function p95Of(found: Pick<Found, "latency">): Found["latency"][number] | null {
  return found.latency.find(({ q }) => q === 0.95) ?? null;
}

/** What is said of a release, as words for a gate. */
export function wordsOf(found: Pick<Found, "latency" | "failures">): VerdictAnswer["words"] {
  const p95 = p95Of(found);
  return [
    ...(p95 ? [LATENCY_WORDS[p95.change.verdict]] : []),
    ...(found.failures ? [FAILURE_WORDS[found.failures.change.verdict]] : []),
  ];
}

/** All that is said of a release, in a sentence. */
export function inASentence(
  release: string,
  against: string,
  found: Pick<Found, "latency" | "failures">,
  unit: string,
): string {
  const p95 = p95Of(found);
  const parts: string[] = [];
  if (p95) {
    const { change } = p95;
    const said =
      change.verdict === "not enough yet"
        ? `p95 ${changeText(change.value, "%")}, not enough yet`
        : `${LATENCY_WORDS[change.verdict]} (p95 ${changeText(change.value, "%")})`;
    const needs = needsText(change, unit);
    parts.push(needs ? `${said}: ${needs}` : said);
  }
  if (found.failures) {
    const { change } = found.failures;
    const said =
      change.verdict === "not enough yet"
        ? `errors ${changeText(change.value, "points")}, not enough yet`
        : `${FAILURE_WORDS[change.verdict]} (${changeText(change.value, "points")})`;
    const needs = needsText(change, unit);
    parts.push(needs ? `${said}: ${needs}` : said);
  }
  return parts.length === 0
    ? `nothing can be said of ${release}`
    : `${release} against ${against}: ${parts.join("; ")}`;
}
