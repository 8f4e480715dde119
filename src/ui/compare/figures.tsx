"use client";

import { type ReactNode, useRef } from "react";
import type { ComparisonAnswer } from "@/core/api/comparison";
import { digits } from "@/core/unit/format";
import { shortName } from "../frame/names";
import { Sideways } from "../frame/sideways";
import { useWidth } from "../frame/width";
import { linesOf, reach } from "./figureLines";
import { IntervalBar, type Tone } from "./intervalBar";

/** The figures of both, what lies between them, and what is said of it. */

const BAR = 168;
const NARROW_BAR = 96;
/** Below this the page is narrow, px. */
const NARROW = 900;
const USUAL_WIDTH = 1066;
const LONGEST_NAME = 18;

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
  const lines = linesOf(answer, found);
  return (
    <Sideways holder={plate} label="Figures of both releases" className="plate">
      <table
        className={`w-full border-collapse print:text-[12px] print:[&_td]:pr-2 print:[&_th]:pr-2 ${narrow ? "[&_td]:pr-2.5 [&_th]:pr-2.5" : ""}`}
      >
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
                  <div className={narrow ? "" : "flex items-center gap-3"}>
                    <IntervalBar
                      {...line.change}
                      tolerance={line.tolerance}
                      end={line.end}
                      tone={line.tone}
                      width={narrow ? NARROW_BAR : BAR}
                    />
                    <span className="num text-[12.5px]">
                      <b>{line.text(line.change.value)}</b>
                      <span className="block text-[11.5px] text-muted">
                        {reach(line.change, line.text).map((part) => (
                          <span key={part} className="inline-block whitespace-pre">
                            {part}
                          </span>
                        ))}
                      </span>
                    </span>
                  </div>
                )}
              </td>
              <td className={`py-1.5 pr-4 print:min-w-0 ${narrow ? "min-w-28" : "min-w-40"}`}>
                <span className={INK[line.tone]}>
                  {MARKS[line.tone]}
                  {line.says}
                </span>
                {line.more && <span className="block text-[12px] text-muted">{line.more}</span>}
              </td>
              {alike && (
                <td
                  className={`${narrow ? "min-w-24" : "min-w-28"} py-1.5 pr-4 text-[12.5px] print:min-w-0 print:text-[12px] ${line.alike ? INK[line.alike.tone] : ""}`}
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
