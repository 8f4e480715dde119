import type { ComparisonAnswer } from "@/core/api/comparison";
import { changeText, differenceText, FAILURE_WORDS, LATENCY_WORDS, needsText } from "@/core/release/says";
import { digits, formatValue } from "@/core/unit/format";
import { axisEnd, type Tone, toneOf } from "./intervalBar";

/** What each line of the figures says. */

/** A measure of both releases, in words. */
export interface Line {
  name: string;
  candidate: string;
  baseline: string;
  change: { value: number; low: number | null; high: number | null } | null;
  /** Writes a change. */
  text: (change: number) => string;
  tolerance: number;
  end: number;
  tone: Tone;
  says: string;
  /** What is missing, or how sure it is. */
  more: string | null;
  alike: { says: string; tone: Tone; title: string } | null;
  /** What the line is read by, for who points at it. */
  title?: string;
}

/** A percentage that no line ends in. */
const percent = (share: number) => `${digits(share * 100)}\u00a0%`;
const relative = (change: number) => changeText(change, "%");
const points = (change: number) => changeText(change, "points");

/** From where to where a change may lie, in the two parts between which a line may break. */
export function reach(
  { low, high }: { low: number | null; high: number | null },
  text: (change: number) => string,
): [string, string] {
  return [`${low === null ? "anything less" : text(low)} `, `to ${high === null ? "anything more" : text(high)}`];
}

type Found = NonNullable<ComparisonAnswer["found"]>;

function latencyLines(answer: ComparisonAnswer, found: Found): Line[] {
  const { unit, tolerances, alike } = answer;
  const end = axisEnd(
    found.latency.flatMap(({ change }) => [change.value, Math.min(change.high ?? 0, 2)]),
    2 * tolerances.latency,
  );
  return found.latency.map(({ q, candidate, baseline, change }) => {
    const same = alike?.latency.find((one) => one.q === q)?.change ?? null;
    return {
      name: `p${q * 100}`,
      candidate: formatValue(candidate.value, unit),
      baseline: formatValue(baseline.value, unit),
      change,
      text: relative,
      tolerance: tolerances.latency,
      end,
      tone: toneOf(change.verdict),
      says: LATENCY_WORDS[change.verdict],
      more: needsText(change, unit),
      alike: same && {
        says: `${relative(same.value)}, ${LATENCY_WORDS[same.verdict]}`,
        tone: toneOf(same.verdict),
        title: [reach(same, relative).join(""), needsText(same, unit)].filter(Boolean).join("; "),
      },
    };
  });
}

function failureLine({ unit, tolerances, alike }: ComparisonAnswer, { failures }: Found): Line[] {
  if (!failures) return [];
  const { candidate, baseline, change } = failures;
  const same = alike?.failures?.change ?? null;
  return [
    {
      name: "errors",
      candidate: percent(candidate.value),
      baseline: percent(baseline.value),
      change,
      text: points,
      tolerance: tolerances.failures,
      end: axisEnd([change.low ?? 0, change.high ?? 0], 2 * tolerances.failures),
      tone: toneOf(change.verdict),
      says: FAILURE_WORDS[change.verdict],
      more: needsText(change, unit),
      alike: same && {
        says: `${points(same.value)}, ${FAILURE_WORDS[same.verdict]}`,
        tone: toneOf(same.verdict),
        title: [reach(same, points).join(""), needsText(same, unit)].filter(Boolean).join("; "),
      },
    },
  ];
}

function trafficLine({ throughput, rates, split }: Found): Line {
  const rate = (value: number) => `${digits(value)} /s`;
  const share = split ? `has ${percent(split.value)} of all calls (${reach(split, percent).join("")})` : null;
  const odd = split?.verdict === "more than meant" || split?.verdict === "less than meant";
  return {
    name: "throughput",
    candidate: rate(rates.candidate),
    baseline: rate(rates.baseline),
    change: split ? null : throughput,
    text: relative,
    tolerance: 0,
    end: throughput ? axisEnd([throughput.low ?? 0, throughput.high ?? 0], 0.2) : 1,
    tone: odd ? "bad" : "open",
    says:
      split?.meant != null
        ? `meant ${percent(split.meant)}: ${split.verdict}`
        : share === null
          ? ""
          : "nothing was meant",
    more: share,
    alike: null,
  };
}

function measureLines(answer: ComparisonAnswer): Line[] {
  return answer.measures.map((one) => {
    const { name, reading, unit, share, change, verdict } = one;
    const text = one.relative ? relative : differenceText([one.candidate, one.baseline], unit, share);
    const more = verdict === "same" ? "within the tolerance" : null;
    const words: Record<typeof verdict, string> = {
      worse: one.good === "more" ? "less" : "more",
      better: one.good === "more" ? "more" : "less",
      same: "as much",
      different: change.value > 0 ? "more" : "less",
      "not enough yet": "not enough yet",
    };
    return {
      name,
      candidate: formatValue(one.candidate, unit, share),
      baseline: formatValue(one.baseline, unit, share),
      change,
      text,
      tolerance: one.relative ? answer.tolerances.latency : 0,
      end: axisEnd([change.value, change.low ?? 0, change.high ?? 0], one.relative ? 0.1 : Number.MIN_VALUE),
      tone: toneOf(verdict),
      says: words[verdict],
      more,
      alike: null,
      title: reading,
    };
  });
}

/** All measures of a comparison that found something. */
export function linesOf(answer: ComparisonAnswer, found: Found): Line[] {
  return [...latencyLines(answer, found), ...failureLine(answer, found), trafficLine(found), ...measureLines(answer)];
}
