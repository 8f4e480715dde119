"use client";

import { lazy, memo, Suspense, useMemo, useRef } from "react";
import type { ReadingResult } from "@/core/reading/result";
import type { ReadingsPlate } from "@/core/sheet/sheet";
import { earlierIn } from "@/core/window/earlier";
import type { Span } from "@/core/window/window";
import { ChartSkeleton } from "../chart/skeleton";
import { ProblemNote } from "../frame/problemNote";
import { isRefusal } from "../query/api";
import type { Answered } from "../query/awaited";
import { useMarksOf } from "../query/use";
import { LookedAt } from "./looks";
import type { ShownReading } from "./looks/props";
import { NothingToShow, Replacements } from "./missing";
import { PlateTake } from "./plateTake";
import { useHeldReadings, useReadings, useScope } from "./scope";
import { shownReadings } from "./shownReadings";

const Note = lazy(() => import("./note"));

export function NoteBody({ text }: { text: string }) {
  return (
    <Suspense fallback={<p className="whitespace-pre-wrap">{text}</p>}>
      <Note text={text} />
    </Suspense>
  );
}

/** The readings of a plate that are answered; the same list until one of the answers is another. */
function useShown(
  { readings }: ReadingsPlate,
  held: readonly string[] | null,
  answers: readonly Answered<ReadingResult>[],
  earlier: readonly Answered<ReadingResult>[],
  back: number,
): readonly ShownReading[] {
  const kept = useRef<{ parts: unknown[]; back: number; shown: ShownReading[] }>({ parts: [], back, shown: [] });
  const results = answers.map(({ result }) => result);
  const olds = earlier.map(({ result }) => result);
  const parts = [readings, held, back, ...results, ...olds];
  const before = kept.current;
  const same = parts.length === before.parts.length && parts.every((one, i) => one === before.parts[i]);
  if (same) return before.shown;
  const shown = held ? shownReadings({ readings, held, results, olds, back }, before) : [];
  kept.current = { parts, back, shown };
  return shown;
}

/** What a plate shows: its readings, asked and answered, in the way in which it looks at them. */
export const PlateBody = memo(function PlateBody({
  plate,
  name,
  span,
  height,
}: {
  plate: ReadingsPlate;
  /** What it is called, with what is picked. */
  name: string;
  span: Span | null;
  height: number;
}) {
  const scope = useScope();
  const texts = useMemo(() => plate.readings.map(({ text }) => text), [plate.readings]);
  const held = useHeldReadings(texts);
  // A number has an earlier window of its own, unless the sheet has one.
  const { back, words } = scope.against ??
    earlierIn(plate.look.as === "number" ? plate.look.against : null) ?? { back: 0, words: "" };
  const { answers, earlier } = useReadings(held, span, back);
  const first = answers.find(({ result }) => result !== undefined)?.result;
  // Releases are no part of what a link shows.
  const marks = useMarksOf(scope.link === null ? first : undefined);
  const readings = useShown(plate, held, answers, earlier, back);
  const filled = useMemo(() => readings.filter(({ result }) => result.series.length > 0), [readings]);
  if (scope.unknown.length > 0)
    return <p className="py-4 text-muted">Waits for {scope.unknown.join(" and ")}: nothing there to pick from yet</p>;
  const failed = answers.flatMap(({ error, result }, i) => (error && !result ? [{ error, text: texts[i] }] : []));
  const problems = failed.map(({ error, text }) => (
    <div key={text}>
      <ProblemNote error={error} text={text} />
      {isRefusal(error) && scope.link === null && <Replacements text={text} />}
    </div>
  ));
  if (failed.length === plate.readings.length) return <>{problems}</>;
  if (readings.length + failed.length < plate.readings.length) return <ChartSkeleton height={height} />;
  if (filled.length === 0)
    return (
      <>
        {problems}
        {readings.map(({ result, asked }) => (
          <NothingToShow key={asked} warnings={result.warnings} text={asked} />
        ))}
      </>
    );
  const empty = readings.filter(({ result }) => result.series.length === 0);
  const warnings = [...new Set(readings.flatMap(({ result }) => result.warnings.map(({ message }) => message)))];
  return (
    <>
      {problems}
      <LookedAt look={plate.look} readings={filled} marks={marks} height={height} earlierWords={words} />
      {empty.length > 0 && (
        <p className="text-[12.5px] text-warning">◆ nothing of {empty.map(({ asked }) => asked).join(" and ")}</p>
      )}
      {warnings.length > 0 && (
        <ul className="mt-1 text-[12.5px] text-warning">
          {warnings.map((message) => (
            <li key={message}>◆ {message}</li>
          ))}
        </ul>
      )}
      <PlateTake name={name} look={plate.look} readings={filled} />
    </>
  );
});
