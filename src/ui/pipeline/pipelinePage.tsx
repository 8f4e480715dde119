"use client";

import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { PipelineAnswer } from "@/core/api/pipeline";
import { STEP_TYPES, type StepConfig, type StepType } from "@/core/pipeline/metricSteps";
import { countedTwice } from "@/core/pipeline/origins";
import { ProblemNote } from "../frame/problemNote";
import { moment } from "../frame/times";
import { fetchJson } from "../query/api";
import { useNow } from "../query/place";
import { useReading } from "../query/use";
import { Slot } from "../sentence/slot";
import { count } from "../store/amounts";
import { problemsOf, useDraft } from "./draft";
import { EffectPanel } from "./effectPanel";
import { OriginsPanel } from "./originsPanel";
import { Publishing, Versions } from "./publishing";
import { StepList } from "./stepList";
import { useArrivals, useEffectOfDraft } from "./useEffectOfDraft";
import { newStep, STEP_WORDS } from "./words";

const GRAIN = 15_000;
const BACK = 2 * 60_000;

function usePipeline() {
  return useQuery({
    queryKey: ["pipeline"],
    queryFn: ({ signal }) => fetchJson<PipelineAnswer>("/api/pipeline", {}, signal),
    refetchInterval: 5000,
  });
}

/** Points a second at steps as they run, and all that are received. */
function useLiveRates(published: boolean) {
  const now = Math.floor(useNow() / GRAIN) * GRAIN;
  const span = now > 0 ? { from: now - BACK, to: now } : null;
  const steps = useReading("rate of tin.pipeline.points by step, way", published ? span : null);
  const received = useReading('rate of tin.intake.points where outcome is "accepted"', span);
  const rates = useMemo(() => {
    const found = new Map<string, { in: number; out: number }>();
    for (const { labels, total } of steps.data?.series ?? []) {
      const step = labels.step ?? "";
      const known = found.get(step) ?? { in: 0, out: 0 };
      found.set(step, { ...known, [labels.way === "in" ? "in" : "out"]: total ?? 0 });
    }
    return found;
  }, [steps.data]);
  return { rates, received: received.data?.series[0]?.total ?? null };
}

function End({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section aria-label={title} className="plate w-40 shrink-0 self-start px-3 py-2 text-[13px]">
      <h2 className="font-bold">{title}</h2>
      {children}
    </section>
  );
}

/** The pipeline: what arrivals go through before they are stored; as it runs, and as it is drafted. */
export function PipelinePage() {
  const { data, error } = usePipeline();
  const draft = useDraft(data?.live);
  const arrivals = useArrivals();
  const { rates, received } = useLiveRates((data?.live.id ?? 0) > 0);
  const live = data?.live.config.metrics ?? [];
  const steps = draft.steps ?? live;
  const problems = problemsOf(steps);
  const tried = useEffectOfDraft(arrivals.data, live, problems.size === 0 ? draft.steps : null);
  const effects = new Map(tried.effect?.draft.steps.map((one) => [one.id, one]) ?? []);
  const twice = countedTwice(steps);
  const add = (type: string) => draft.change([...steps, newStep(type as StepType, steps)]);
  const insert = (step: StepConfig) => draft.change([...steps, step]);
  if (error && !data) return <ProblemNote error={error} />;
  if (!data) return <div role="status" aria-label="Reading…" className="plate skeleton-bar h-40" />;
  const drafting = draft.steps !== null;
  const outdated = drafting && draft.based !== data.live.id;
  const waiting = data.waiting.reduce((sum, { points }) => sum + points, 0);
  return (
    <>
      <header className="mb-3 flex flex-wrap items-baseline gap-x-3">
        <h1 className="text-[24px] leading-none font-bold">Pipeline</h1>
        <p className="text-muted">
          {data.live.id === 0
            ? "nothing was ever published: all that arrives is stored as it is"
            : `version ${data.live.id} is live since ${moment(data.live.at)}: ${data.live.note} (${data.live.who})`}
        </p>
        {drafting && (
          <p className="ml-auto flex items-baseline gap-3">
            <b className="text-primary">◆ Draft</b>
            {draft.undo && (
              <button type="button" className="slot" onClick={draft.undo}>
                undo
              </button>
            )}
            <button type="button" className="slot" onClick={draft.giveUp}>
              give it up
            </button>
          </p>
        )}
      </header>
      {outdated && (
        <p role="alert" className="plate mb-3 px-3 py-2 text-warning">
          ◆ Version {data.live.id} was published since this draft was begun from version {draft.based}. Look at what
          changed below; to go on from what is live, give the draft up.
        </p>
      )}
      {twice.length > 0 && (
        <p role="alert" className="plate mb-3 px-3 py-2 text-warning">
          ◆ Counted twice: {twice.length === 1 ? "a merge sends" : "merges send"} its originals on under the same name.
          Give what comes out a name of its own, or let the originals go.
        </p>
      )}
      {drafting && draft.steps && (
        <Publishing steps={draft.steps} based={draft.based} ready={problems.size === 0} onPublished={draft.giveUp} />
      )}
      <div className="flex items-stretch gap-3">
        <End title="Receivers">
          <p>OTLP over HTTP and gRPC</p>
          <p className="mt-1">
            <span className="num">{received === null ? "…" : `${received.toFixed(1)} points/s`}</span> sent, and what is
            read from targets
          </p>
        </End>
        <div className="min-w-0 flex-1">
          {steps.length === 0 && (
            <p className="plate mb-2 px-3 py-3 text-muted">
              No steps: what arrives is stored as it is. Add one, or take one that is offered below.
            </p>
          )}
          <StepList
            steps={steps}
            problems={problems}
            effects={effects}
            live={drafting ? new Map() : rates}
            onSteps={draft.change}
          />
          <p>
            <Slot
              name="add a step"
              options={STEP_TYPES.map((value) => ({ value, label: STEP_WORDS[value].name }))}
              onChoose={add}
              placeholder="Find a step"
            >
              add a step
            </Slot>
          </p>
        </div>
        <End title="Exporters">
          <p>The store of Tin Ladder</p>
          {waiting > 0 && (
            <p className="text-muted">
              <span className="num">{count(waiting)}</span> points wait for the end of their window
            </p>
          )}
        </End>
      </div>
      <div className="mt-3">
        <EffectPanel
          tried={tried}
          points={arrivals.data?.points ?? 0}
          drafting={drafting}
          onAgain={() => void arrivals.refetch()}
        />
        {tried.effect && (
          <OriginsPanel origins={tried.effect.origins} freeId={(type) => newStep(type, steps).id} onStep={insert} />
        )}
        <Versions versions={data.versions} onDraft={(old) => draft.change(old)} />
      </div>
    </>
  );
}
