"use client";

import { useQuery } from "@tanstack/react-query";
import { parseAsString, useQueryState } from "nuqs";
import { useEffect, useMemo, useState } from "react";
import { readingStructure } from "@/core/reading/language/grammar";
import { workedExamples } from "@/core/reading/language/questions";
import { ReadingError, type ReadingTree } from "@/core/reading/language/tree";
import { printDuration } from "@/core/window/durationText";
import { Lines } from "../chart/lines";
import { Warnings } from "../chart/plate";
import { HoverScope } from "../chart/pointing/hover";
import { ChartSkeleton } from "../chart/skeleton";
import { useHand } from "../frame/inHand";
import { OnlyWith } from "../frame/onlyWith";
import { ProblemNote } from "../frame/problemNote";
import { singleKeysOn } from "../frame/singleKeys";
import { ask } from "../query/api";
import { usePicks } from "../query/picks";
import { useSpan } from "../query/place";
import { useTimes } from "../query/times";
import { useMarksOf, useMetrics, useReading } from "../query/use";
import { ReadingSentence } from "../sentence/readingSentence";
import { useEditorAfter } from "./lazyEditor";
import { ReadingTable } from "./readingTable";
import { readFrom } from "./resolution";

const HEIGHT = 268;

function parsed(text: string): ReadingTree | ReadingError | null {
  if (text.trim() === "") return null;
  try {
    return readingStructure(text);
  } catch (error) {
    if (error instanceof ReadingError) return error;
    throw error;
  }
}

/** How long a reading has to stay before it counts as looked at, ms: what is passed by on the way is not noted. */
const LOOKED = 4000;
const LONGEST_NOTED = 600;

/** Notes for everybody what was looked at. */
function useNoted(reading: string, shown: boolean): void {
  useEffect(() => {
    if (reading === "" || reading.length > LONGEST_NOTED || !shown) return;
    const timer = setTimeout(() => {
      // That it is not noted harms nobody.
      ask("POST /api/readings/lately", { body: { reading } }).catch(() => {});
    }, LOOKED);
    return () => clearTimeout(timer);
  }, [reading, shown]);
}

/** What people of this installation read lately; nothing where nobody did. */
function Lately({ onChoose }: { onChoose: (text: string) => void }) {
  const { moment } = useTimes();
  const { data } = useQuery({
    queryKey: ["lately"],
    queryFn: ({ signal }) => ask("GET /api/readings/lately", {}, signal),
    staleTime: 10_000,
  });
  if (!data || data.readings.length === 0) return null;
  return (
    <section className="plate mb-3 p-4" aria-label="Read lately">
      <h2 className="font-bold">Read lately</h2>
      <ul className="mt-2 space-y-1.5">
        {data.readings.map(({ reading, at }) => (
          <li key={reading} className="flex items-baseline justify-between gap-4">
            <button type="button" className="slot num min-w-0 text-left break-words" onClick={() => onChoose(reading)}>
              {reading}
            </button>
            <span className="shrink-0 text-[12.5px] text-muted">{moment(at)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** A worked example for each question of the trade that can be asked of what has arrived. */
function Examples({ onChoose }: { onChoose: (text: string) => void }) {
  const { data } = useMetrics();
  return (
    <div className="plate p-4">
      <h2 className="font-bold">Ask what has arrived</h2>
      <p className="mt-1 max-w-prose text-muted">
        Write a reading above, or begin with one of these and change its parts in the sentence.
      </p>
      <dl className="mt-3 grid grid-cols-1 items-baseline gap-x-6 gap-y-2 md:grid-cols-[auto_1fr]">
        {workedExamples(data ?? []).map(({ question, reading }) => (
          <div key={reading} className="contents">
            <dt>{question}</dt>
            <dd className="min-w-0">
              <button type="button" className="slot num text-left break-words" onClick={() => onChoose(reading)}>
                {reading}
              </button>
            </dd>
          </div>
        ))}
      </dl>
    </div>
  );
}

/** The page for a reading that nobody has kept yet: as text, as a sentence, as lines, as a table. */
export function ScratchPage() {
  const [asked, setAsked] = useQueryState("reading", parseAsString.withDefault("").withOptions({ history: "push" }));
  const [text, setText] = useState(asked);
  const [focusKey, setFocusKey] = useState(0);
  const metrics = useMetrics();
  const span = useSpan();
  useEffect(() => setText(asked), [asked]);
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (
        event.key !== "e" ||
        event.ctrlKey ||
        event.metaKey ||
        !singleKeysOn() ||
        target.isContentEditable ||
        target.tagName === "INPUT"
      )
        return;
      event.preventDefault();
      setFocusKey((key) => key + 1);
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);

  const tree = useMemo(() => parsed(asked), [asked]);
  const picks = usePicks();
  const { data, error, isFetching } = useReading(tree instanceof ReadingError ? "" : asked, span, picks);
  const marks = useMarksOf(data);
  const read = (next: string) => void setAsked(next.trim() === "" ? null : next.trim());
  const changed = text.trim() !== asked;
  const { held, keep } = useHand();
  const title = tree && !(tree instanceof ReadingError) ? (tree.title ?? "") : "";
  useEffect(() => {
    held.current = asked.trim() === "" ? null : { text: asked.trim(), title };
    return () => {
      held.current = null;
    };
  }, [held, asked, title]);
  const nothingAwaited = asked.trim() === "" || tree instanceof ReadingError || error !== null;
  const Editor = useEditorAfter(nothingAwaited || focusKey > 0 ? "at once" : data ? "answered" : "awaited");
  useNoted(asked.trim(), data !== undefined && data.series.length > 0);

  return (
    <HoverScope>
      <h1 className="mb-2 text-[24px] leading-none font-bold">Scratch</h1>
      <div className="plate">
        <div className="flex items-center gap-2 border-b border-base-300 pr-2 pl-2">
          {Editor ? (
            <Editor text={text} onChange={setText} onAsk={read} metrics={metrics.data ?? []} focusKey={focusKey} />
          ) : (
            <p className="num min-w-0 flex-1 truncate px-1.5 py-2 text-[14px]">{text || "\u00a0"}</p>
          )}
          <button type="button" className={`btn btn-sm ${changed ? "btn-primary" : ""}`} onClick={() => read(text)}>
            Read
          </button>
        </div>
        <div className="px-3 py-1.5">
          {tree instanceof ReadingError ? (
            <div role="alert" className="py-1">
              <p className="text-error">
                ✕ {tree.message} <span className="text-muted">(at character {tree.position + 1})</span>
              </p>
              {tree.hint && <p className="text-muted">{tree.hint}</p>}
            </div>
          ) : tree ? (
            <ReadingSentence tree={tree} onChange={read} />
          ) : (
            <p className="py-1 text-muted">
              For example{" "}
              <span className="num">p95 of http.server.request.duration where service is "loans" by release</span>
            </p>
          )}
        </div>
      </div>
      <div className="mt-3">
        {asked.trim() === "" ? (
          <>
            <Lately onChoose={read} />
            <Examples onChoose={read} />
          </>
        ) : tree instanceof ReadingError ? null : error ? (
          <ProblemNote error={error} text={asked} onMend={read} />
        ) : data && span ? (
          <section className="plate px-3 pt-2 pb-2" aria-busy={isFetching}>
            <header className="flex items-baseline justify-between">
              <h2 className="font-bold">
                {(tree && !(tree instanceof ReadingError) && tree.title) || (
                  <>
                    {data.series.length} {data.series.length === 1 ? "series" : "series"}
                  </>
                )}
              </h2>
              <OnlyWith right="edit">
                <button
                  type="button"
                  className="slot ml-4 text-[13px]"
                  onClick={() => keep({ text: asked.trim(), title })}
                >
                  keep on a sheet
                </button>
              </OnlyWith>
              <p className="ml-auto pr-20 text-[12px] text-muted">
                steps of <span className="num">{printDuration(data.every)}</span>, read from{" "}
                {readFrom(data.resolutions)}
              </p>
            </header>
            {data.series.length > 0 ? (
              <>
                <Lines result={data} marks={marks} height={HEIGHT} all />
                <Warnings result={data} />
                <div className="mt-2 border-t border-base-300 pt-1">
                  <ReadingTable result={data} />
                </div>
              </>
            ) : (
              <div className="py-6 text-center">
                <p className="font-bold">Nothing to draw</p>
                <Warnings result={data} />
              </div>
            )}
          </section>
        ) : (
          <section className="plate px-3 py-2">
            <ChartSkeleton height={HEIGHT} />
          </section>
        )}
      </div>
    </HoverScope>
  );
}
