"use client";

import { useState } from "react";
import type { Advice } from "@/core/advice/advise";
import { LANGUAGES } from "@/core/code/languages";
import { contractBody } from "@/core/contract/contract";
import { digits, formatValue } from "@/core/unit/format";
import { MINUTE } from "@/core/window/lengths";
import { CodeBlock } from "../frame/codeBlock";
import { ProblemNote } from "../frame/problemNote";
import { duration } from "../frame/times";
import { useAdvice } from "../query/instruments";
import { useSpan } from "../query/place";
import { LanguageSlot } from "../sentence/languageSlot";
import { Slot } from "../sentence/slot";

const COUNTS = [4, 6, 8, 10, 12, 14, 16, 20, 24, 32];
const PERCENTS = ["50,95,99", "50,90", "95,99", "50,75,90,95,99,99.9"];

function words(percents: string): string {
  return percents
    .split(",")
    .map((one) => `p${one}`)
    .join(", ");
}

function percent(width: number): string {
  return `${digits(width * 100)} %`;
}

/** Bounds on one logarithmic axis, those of now above, those advised below; percentiles as marks. */
function BoundsDrawing({ advice }: { advice: Advice }) {
  const { now, advised, sharpness } = advice;
  const all = [...(now ?? []), ...advised.bounds, ...sharpness.map(({ value }) => value)].filter((one) => one > 0);
  const low = Math.log(Math.min(...all));
  const high = Math.log(Math.max(...all));
  const x = (value: number) =>
    8 + (984 * (Math.log(Math.max(value, Math.exp(low))) - low)) / Math.max(high - low, 1e-9);
  const row = (bounds: readonly number[], y: number, colour: string) =>
    bounds
      .filter((bound) => bound > 0)
      .map((bound) => (
        <line key={bound} x1={x(bound)} x2={x(bound)} y1={y} y2={y + 18} stroke={colour} strokeWidth={2} />
      ));
  return (
    <svg
      viewBox="0 0 1000 66"
      className="mt-2 w-full"
      role="img"
      aria-label="Bounds of now and as advised, on a logarithmic axis"
    >
      <line x1={0} x2={1000} y1={33} y2={33} stroke="var(--color-base-300)" />
      {now && row(now, 10, "var(--color-secondary)")}
      {row(advised.bounds, 38, "var(--color-primary)")}
      {sharpness.map(({ percent: which, value }) => (
        <g key={which}>
          <line x1={x(value)} x2={x(value)} y1={6} y2={60} stroke="var(--color-warning)" strokeDasharray="3 3" />
          <text x={x(value) + 4} y={65} fontSize={11} fill="var(--color-warning)" className="num">
            p{which}
          </text>
        </g>
      ))}
    </svg>
  );
}

function Said({ advice }: { advice: Advice }) {
  const { unit, sharpness, widthNow, advised, exponential, usualExponential } = advice;
  return (
    <>
      <table className="mt-2 border-collapse text-[13px]">
        <tbody>
          {sharpness.map(({ percent: which, value, low, high }) => (
            <tr key={which}>
              <th scope="row" className="num pr-4 text-left">
                p{which}
              </th>
              <td className="num pr-4 text-right">{formatValue(value, unit)}</td>
              <td className="text-muted">
                {high === null ? (
                  <>
                    somewhere above <span className="num">{formatValue(low, unit)}</span>: it lies in the open bucket
                  </>
                ) : (
                  <>
                    somewhere between <span className="num">{formatValue(low, unit)}</span> and{" "}
                    <span className="num">{formatValue(high, unit)}</span>, as the buckets are now
                  </>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <BoundsDrawing advice={advice} />
      <table className="mt-1 border-collapse text-[13px]">
        <thead className="text-left">
          <tr className="border-b border-base-300">
            <th scope="col" className="py-1 pr-6">
              buckets
            </th>
            <th scope="col" className="pr-6 text-right">
              how many
            </th>
            <th scope="col" className="text-right">
              width around a percentile, relative to it
            </th>
          </tr>
        </thead>
        <tbody className="num">
          <tr>
            <th scope="row" className="pr-6 text-left font-sans font-normal">
              as they are now
            </th>
            <td className="pr-6 text-right">{advice.now ? advice.now.length + 1 : "exponential"}</td>
            <td className="text-right">{percent(widthNow)}</td>
          </tr>
          <tr className="font-semibold text-primary">
            <th scope="row" className="pr-6 text-left font-sans">
              as advised
            </th>
            <td className="pr-6 text-right">{advised.bounds.length + 1}</td>
            <td className="text-right">{percent(advised.width)}</td>
          </tr>
          <tr>
            <th scope="row" className="pr-6 text-left font-sans font-normal">
              exponential, as many (scale {exponential.scale})
            </th>
            <td className="pr-6 text-right">{exponential.buckets}</td>
            <td className="text-right">{percent(exponential.width)}</td>
          </tr>
          <tr>
            <th scope="row" className="pr-6 text-left font-sans font-normal">
              exponential, as SDKs make it (scale {usualExponential.scale})
            </th>
            <td className="pr-6 text-right">{usualExponential.buckets}</td>
            <td className="text-right">{percent(usualExponential.width)}</td>
          </tr>
        </tbody>
      </table>
      {advice.open > 0 && (
        <p className="mt-1 text-warning">
          ◆ {advice.open} times a percentile lay in the open bucket, where nothing is known: a larger last bound would
          show it.
        </p>
      )}
      {advice.guessed && (
        <p className="mt-1 text-muted">
          The buckets of now are wide: inside them, values were taken as evenly spread. After a while with these bounds,
          look again.
        </p>
      )}
    </>
  );
}

/** Which bounds would show percentiles best, from what was really observed; with the code to set them. */
export function AdvicePlate({ name }: { name: string }) {
  const span = useSpan();
  const [percents, setPercents] = useState(PERCENTS[0]);
  const [bounds, setBounds] = useState(12);
  const [language, setLanguage] = useState(LANGUAGES[0]);
  const wide = span && { from: Math.floor(span.from / MINUTE) * MINUTE, to: Math.floor(span.to / MINUTE) * MINUTE };
  const { data, error } = useAdvice(name, wide, percents, bounds);
  const advice = data?.advice;
  const body = contractBody.safeParse({
    name,
    kind: "histogram",
    unit: data?.unit ?? "",
    bounds: advice?.advised.bounds ?? null,
  });
  return (
    <section aria-label="Better buckets" className="plate px-3 py-2">
      <p className="text-[15px]">
        For{" "}
        <Slot
          name="percentiles"
          options={PERCENTS.map((value) => ({ value, label: words(value) }))}
          onChoose={setPercents}
        >
          {words(percents)}
        </Slot>{" "}
        with{" "}
        <Slot
          name="number of bounds"
          options={COUNTS.map((value) => ({ value: String(value) }))}
          onChoose={(value) => setBounds(Number(value))}
          accept={(text) => (/^\d{1,2}$/.test(text) && Number(text) > 0 ? null : "a number from 1 to 99")}
        >
          {String(bounds)}
        </Slot>{" "}
        bounds, from what was observed in the last {span ? duration(span.to - span.from) : "…"}:
      </p>
      {error && <ProblemNote error={error} />}
      {!data && !error && <div role="status" aria-label="Reading…" className="skeleton-bar mt-2 h-32" />}
      {data && !advice && (
        <p className="py-2 text-muted">Nothing above 0 was observed in this window; widen it on the time rail.</p>
      )}
      {advice && (
        <>
          <Said advice={advice} />
          <p className="mt-3">
            In <LanguageSlot language={language} onChoose={setLanguage} />:
          </p>
          {body.success && (
            <div className="mt-1 grid grid-cols-1 gap-2">
              {language
                .instrument(body.data)
                .filter(({ title }) => title !== "Record with it")
                .map(({ title, text }) => (
                  <CodeBlock key={title} title={title} text={text} />
                ))}
            </div>
          )}
        </>
      )}
    </section>
  );
}
