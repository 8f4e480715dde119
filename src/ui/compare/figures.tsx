"use client";

import { type ReactNode, useRef } from "react";
import type { ComparisonAnswer } from "@/core/api/comparison";
import { changeText, FAILURE_WORDS, LATENCY_WORDS, needsText } from "@/core/release/says";
import { digits, formatValue } from "@/core/unit/format";
import { shortName } from "../frame/names";
import { Sideways } from "../frame/sideways";
import { useWidth } from "../frame/width";
import { axisEnd, IntervalBar, type Tone, toneOf } from "./intervalBar";

/** The figures of both, what lies between them, and what is said of it. */

const BAR = 200;
const NARROW_BAR = 96;
/** Below this the page is narrow, px. */
const NARROW = 900;
const USUAL_WIDTH = 1066;
const LONGEST_NAME = 18;

interface Line {
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

const percent = (share: number) => `${digits(share * 100)} %`;
const relative = (change: number) => changeText(change, "%");
const points = (change: number) => changeText(change, "points");

function reach({ low, high }: { low: number | null; high: number | null }, text: (change: number) => string): string {
  return `${low === null ? "anything less" : text(low)} to ${high === null ? "anything more" : text(high)}`;
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
        title: [reach(same, relative), needsText(same, unit)].filter(Boolean).join("; "),
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
        title: [reach(same, points), needsText(same, unit)].filter(Boolean).join("; "),
      },
    },
  ];
}

function trafficLine({ throughput, rates, split }: Found): Line {
  const rate = (value: number) => `${digits(value)} /s`;
  const share = split ? `has ${percent(split.value)} of the calls of both (${reach(split, percent)})` : null;
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
    const { name, reading, unit, change, verdict } = one;
    const text = one.relative ? relative : (value: number) => formatValue(value, unit);
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
      candidate: formatValue(one.candidate, unit),
      baseline: formatValue(one.baseline, unit),
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

const INK: Record<Tone, string> = { bad: "font-bold text-error", good: "font-bold text-success", open: "" };
const MARKS: Record<Tone, string> = { bad: "✕ ", good: "✓ ", open: "" };

function Head({ children, right }: { children: ReactNode; right?: boolean }) {
  return (
    <th scope="col" className={`py-1.5 pr-4 font-semibold ${right ? "text-right" : "text-left"}`}>
      {children}
    </th>
  );
}

/** Every measure as a line: both values, the difference with its interval, and the verdict. */
export function Figures({ answer }: { answer: ComparisonAnswer }) {
  const { found, candidate, baseline, alike } = answer;
  const plate = useRef<HTMLDivElement>(null);
  const narrow = useWidth(plate, USUAL_WIDTH) < NARROW;
  if (!found || !baseline) return null;
  const lines = [
    ...latencyLines(answer, found),
    ...failureLine(answer, found),
    trafficLine(found),
    ...measureLines(answer),
  ];
  return (
    <Sideways holder={plate} label="Figures of both releases" className="plate">
      <table className="w-full border-collapse">
        <caption className="sr-only">
          {candidate.release} against {baseline.release}
        </caption>
        <thead>
          <tr className="border-b-[3px] border-primary align-bottom">
            <th scope="col" className="py-1.5 pr-4 pl-4 text-left font-semibold">
              Measure
            </th>
            <Head right>
              <span className="num text-primary">{shortName(candidate.release, LONGEST_NAME)}</span>
            </Head>
            <Head right>
              <span className="num">{shortName(baseline.release, LONGEST_NAME)}</span>
            </Head>
            <Head>Difference</Head>
            <Head>Verdict</Head>
            {alike && (
              <Head>
                Like for like<span className="font-normal text-muted">, {alike.attribute}</span>
              </Head>
            )}
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <tr
              key={`${line.name} ${line.title ?? ""}`}
              className="border-b border-base-300 align-middle last:border-b-0"
            >
              <th scope="row" title={line.title} className="py-1.5 pr-4 pl-4 text-left font-semibold whitespace-nowrap">
                {line.name}
              </th>
              <td className="num py-1.5 pr-4 text-right whitespace-nowrap">{line.candidate}</td>
              <td className="num py-1.5 pr-4 text-right whitespace-nowrap text-muted">{line.baseline}</td>
              <td className={`py-1.5 pr-4 ${narrow ? "" : "whitespace-nowrap"}`}>
                {line.change && (
                  <div className="flex items-center gap-3">
                    <IntervalBar
                      {...line.change}
                      tolerance={line.tolerance}
                      end={line.end}
                      tone={line.tone}
                      width={narrow ? NARROW_BAR : BAR}
                    />
                    <span className="num text-[12.5px]">
                      <b>{line.text(line.change.value)}</b>
                      <span className="block text-[11.5px] text-muted">{reach(line.change, line.text)}</span>
                    </span>
                  </div>
                )}
              </td>
              <td className={`py-1.5 pr-4 ${narrow ? "min-w-36" : "min-w-48"}`}>
                <span className={INK[line.tone]}>
                  {MARKS[line.tone]}
                  {line.says}
                </span>
                {line.more && <span className="block text-[12px] text-muted">{line.more}</span>}
              </td>
              {alike && (
                <td
                  className={`max-w-56 py-1.5 pr-4 text-[12.5px] ${line.alike ? INK[line.alike.tone] : ""}`}
                  title={line.alike?.title}
                >
                  {line.alike && (
                    <>
                      {MARKS[line.alike.tone]}
                      {line.alike.says}
                    </>
                  )}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="border-t border-base-300 px-4 py-1.5 text-[11.5px] text-muted">
        {digits(found.minutes)} minutes of{" "}
        {answer.minute === 60_000 ? "each" : `${answer.minute / 60_000} minutes each`}, {answer.way}: {answer.pairing};{" "}
        {digits(Math.round(found.calls.candidate))} and {digits(Math.round(found.calls.baseline))} calls. Bars: the
        interval, which holds at every look with 99 %, on the band of what is not worth a word. Failed:{" "}
        <span className="num">{answer.failed}</span>.
      </p>
    </Sideways>
  );
}
