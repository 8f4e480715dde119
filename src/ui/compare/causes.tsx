"use client";

import { useState } from "react";
import type { CauseAnswer, ComparisonAnswer, ExplanationAnswer } from "@/core/api/comparison";
import { causeText } from "@/core/release/report";
import { changeText } from "@/core/release/says";
import { digits, formatValue } from "@/core/unit/format";
import Link from "../frame/link";

/** What the difference comes from: the values that add most, each to be held to. */

const points = (part: number) => changeText(part, "points");
const percent = (share: number) => `${digits(share * 100)} %`;

/** A part from within in full ink, one by mix hatched, and how far chance reaches. */
function PartBar({ cause, most }: { cause: CauseAnswer; most: number }) {
  const x = (part: number) => `${Math.min(100, (Math.abs(part) / most) * 100)}%`;
  const colour = cause.part > 0 ? "var(--color-error)" : "var(--color-success)";
  const within =
    Math.sign(cause.within) === Math.sign(cause.part) ? Math.min(Math.abs(cause.within), Math.abs(cause.part)) : 0;
  const [near, far] = [
    Math.min(Math.abs(cause.low), Math.abs(cause.high)),
    Math.max(Math.abs(cause.low), Math.abs(cause.high)),
  ];
  const spans = Math.sign(cause.low) !== Math.sign(cause.high);
  return (
    <svg width="100%" height={16} aria-hidden="true" className="block bg-base-200">
      <rect width={x(cause.part)} height={16} fill={colour} fillOpacity={0.35} />
      <rect width={x(within)} height={16} fill={colour} />
      <line
        x1={spans ? "0%" : x(near)}
        x2={x(far)}
        y1={13}
        y2={13}
        stroke="var(--color-base-content)"
        strokeWidth={1.5}
      />
    </svg>
  );
}

/** Of which side there are more calls of a cause, as a part of all. */
function weightsOf(cause: CauseAnswer, found: ExplanationAnswer): { candidate: number; baseline: number } {
  const values = found.attributes.at(0)?.values ?? [];
  const all = (side: "candidate" | "baseline") => values.reduce((total, one) => total + one[side].calls, 0);
  return {
    candidate: cause.candidate.calls / Math.max(1, all("candidate")),
    baseline: cause.baseline.calls / Math.max(1, all("baseline")),
  };
}

function Words({ cause, found }: { cause: CauseAnswer; found: ExplanationAnswer }) {
  const weights = weightsOf(cause, found);
  const more = weights.candidate > weights.baseline ? "more" : "fewer";
  const byMix = Math.abs(cause.mix) > Math.abs(cause.within);
  const share = ({ calls, hits }: CauseAnswer["candidate"]) => (calls > 0 ? percent(hits / calls) : "none");
  return (
    <span className="block text-[11.5px] text-muted">
      {share(cause.candidate)} of its {digits(Math.round(cause.candidate.calls))} calls, against {share(cause.baseline)}{" "}
      of {digits(Math.round(cause.baseline.calls))}
      {byMix &&
        `; mostly by there being ${more} of them: ${percent(weights.candidate)} of all calls, against ${percent(weights.baseline)}`}
    </span>
  );
}

const MOST = 6;

function List({ found, onHold }: { found: ExplanationAnswer; onHold: (where: CauseAnswer["where"]) => void }) {
  const causes = found.causes.slice(0, MOST);
  const most = Math.max(
    Math.abs(found.whole),
    ...causes.map(({ low, high }) => Math.max(Math.abs(low), Math.abs(high))),
  );
  if (causes.length === 0)
    return (
      <p className="text-muted">
        No value of an attribute, and no pair of values, adds more than its share beyond chance: the difference is
        everywhere, or there is none.
      </p>
    );
  return (
    <ul className="space-y-2">
      {causes.map((cause) => (
        <li
          key={causeText(cause)}
          className="grid grid-cols-[minmax(0,1fr)_minmax(90px,34%)_auto] items-center gap-x-4"
        >
          <span>
            <button
              type="button"
              className="num text-left underline decoration-dotted underline-offset-2 wrap-anywhere hover:text-primary"
              title="hold the page to these calls"
              onClick={() => onHold(cause.where)}
            >
              {causeText(cause)}
            </button>
            <Words cause={cause} found={found} />
          </span>
          <PartBar cause={cause} most={most} />
          <span className="num w-36 text-[12.5px]">
            <b>{points(cause.part)}</b>
            <span className="block text-[11.5px] text-muted">
              {points(cause.low)} to {points(cause.high)}
            </span>
          </span>
        </li>
      ))}
    </ul>
  );
}

/** @param reading where to read on, of what is asked */
export function Causes({
  answer,
  onHold,
  readOn,
}: {
  answer: ComparisonAnswer;
  onHold: (where: CauseAnswer["where"]) => void;
  readOn: string;
}) {
  const { slow, failing, slower, unit, candidate, baseline } = answer;
  const failuresDiffer = answer.found?.failures?.change.verdict === "worse";
  const [chosen, choose] = useState<"slow" | "failing" | null>(null);
  const shown = chosen ?? (failuresDiffer && answer.found?.latency[1]?.change.verdict !== "worse" ? "failing" : "slow");
  const found = shown === "slow" ? slow : failing;
  if (!baseline || !slow) return null;
  const what = slower === null ? "slow" : `slower than ${formatValue(slower, unit)}`;
  return (
    <section aria-label="What explains it" className="plate p-4">
      <header className="mb-3 flex flex-wrap items-baseline gap-x-4">
        <h2 className="text-[17px] font-bold">What explains it</h2>
        <fieldset aria-label="Of which calls" className="flex gap-3">
          {(["slow", "failing"] as const).map((one) => (
            <button
              key={one}
              type="button"
              aria-pressed={shown === one}
              className={
                shown === one
                  ? "border-b-2 border-primary font-semibold text-primary"
                  : "text-muted hover:text-base-content"
              }
              onClick={() => choose(one)}
            >
              {one === "slow" ? `calls ${what}` : "calls that failed"}
            </button>
          ))}
        </fieldset>
        {found && (
          <p className="text-muted">
            {percent(found.shares.candidate)} of calls to {candidate.release}, {percent(found.shares.baseline)} to{" "}
            {baseline.release}: <b className="num text-base-content">{points(found.whole)}</b>
          </p>
        )}
        <Link href={readOn} className="ml-auto underline decoration-dotted underline-offset-2">
          the readings behind it
        </Link>
      </header>
      {found ? (
        <List found={found} onHold={onHold} />
      ) : (
        <p className="text-muted">There are no attributes to tell calls apart by.</p>
      )}
      {found && found.causes.length > 0 && (
        <p className="mt-3 text-[11.5px] text-muted">
          Bars: in full what comes from its own calls, pale what comes from there being more or fewer of them; the line
          is the 99 % interval.
        </p>
      )}
    </section>
  );
}
