"use client";

import type { ReadingEffect } from "@/core/pipeline/effect";
import type { SideBySide } from "@/core/reading/differences";
import type { ReadingResult } from "@/core/reading/result";
import { formatValue } from "@/core/unit/format";
import { Lines } from "../chart/lines";
import { clock } from "../frame/times";

/** What people look at, answered on what is stored as it runs and as it is drafted. */

const MOST_CHARTS = 6;

/** Both answers as one, so that they are drawn on one scale. */
export function together(left: ReadingResult, right: ReadingResult, names: readonly [string, string]): ReadingResult {
  const named = (result: ReadingResult, name: string) =>
    result.series.map((series) => ({ ...series, labels: { side: name, ...series.labels } }));
  return { ...left, series: [...named(left, names[0]), ...named(right, names[1])] };
}

function isSame({ pairs }: ReadingEffect): boolean {
  return pairs.every(({ left, right, furthest }) => left !== null && right !== null && furthest === null);
}

/** How far two answers are apart, in words. */
export function apartText(pairs: readonly SideBySide[], unit: string, names: readonly [string, string]): string {
  if (pairs.length === 0) return "there is nothing on either side";
  const missing = pairs.filter(({ right }) => right === null).length;
  const came = pairs.filter(({ left }) => left === null).length;
  if (missing === pairs.length) return `${names[1]} it is empty`;
  if (came === pairs.length) return `${names[0]} it is empty`;
  const parts = [
    missing > 0 ? `${missing} series only ${names[0]}` : "",
    came > 0 ? `${came} series only ${names[1]}` : "",
  ];
  const [furthest] = pairs.flatMap((pair) => pair.furthest ?? []);
  if (furthest) {
    const change = furthest.left === 0 ? 0 : ((furthest.right - furthest.left) / Math.abs(furthest.left)) * 100;
    const part = change === 0 ? "" : ` (${change > 0 ? "+" : "−"}${Math.abs(change).toFixed(1)} %)`;
    parts.push(
      `furthest apart at ${clock(furthest.at, true)}: ${formatValue(furthest.left, unit)} and ${formatValue(furthest.right, unit)}${part}`,
    );
  }
  return parts.filter(Boolean).join("; ") || "the same to the last digit";
}

const NAMES = ["as it runs", "as drafted"] as const;

export function ReadingsPanel({ readings }: { readings: readonly ReadingEffect[] }) {
  if (readings.length === 0) return null;
  const known = readings.filter(({ live, draft }) => (live?.series.length ?? 0) + (draft?.series.length ?? 0) > 0);
  const changed = known.filter((one) => !isSame(one));
  const same = known.length - changed.length;
  return (
    <section aria-label="What people look at" className="plate mt-3 px-3 py-2">
      <h2 className="font-bold">What people look at</h2>
      {changed.length === 0 && (
        <p className="text-muted">
          {same === 0
            ? "None of the instruments with a contract came in these minutes."
            : `${same} readings of instruments with a contract stay the same.`}
        </p>
      )}
      <div className="grid grid-cols-1 gap-x-4 gap-y-2 lg:grid-cols-2">
        {changed.slice(0, MOST_CHARTS).map((one) => {
          const { text, live, draft, pairs } = one;
          if (!live || !draft) return null;
          const empty = draft.series.length === 0;
          const both = together(live, draft, NAMES);
          return (
            <figure key={text} aria-label={text}>
              <figcaption className="text-[13px]">
                <span className="num font-semibold">{text}</span>
                <br />
                <span className={empty ? "text-warning" : "text-muted"}>
                  {empty ? "◆ will be empty" : apartText(pairs, live.unit, NAMES)}
                </span>
              </figcaption>
              <Lines result={both} span={{ from: live.from, to: live.to }} marks={[]} newestFirst={[]} height={150} />
            </figure>
          );
        })}
      </div>
      {changed.length > 0 && same > 0 && <p className="text-muted">{same} others stay the same.</p>}
    </section>
  );
}
