"use client";

import { parseAsStringLiteral, useQueryState } from "nuqs";
import { useMemo, useState } from "react";
import type { PipelineAnswer } from "@/core/api/pipeline";
import type { FollowAsked } from "@/core/draft/followed";
import type { WatchedReading } from "@/core/draft/watchedReading";
import { SIGNALS, type Signal } from "@/core/otlp/signals";
import type { PipelineConfig } from "@/core/pipeline/config";
import type { AnyStep, StepConfig, StepType } from "@/core/pipeline/steps";
import { metricText } from "@/core/reading/language/quote";
import { MINUTE } from "@/core/window/lengths";
import { HoverScope } from "../chart/pointing/hover";
import { ProblemNote } from "../frame/problemNote";
import { useDefinedInstruments } from "../query/instruments";
import { useContracts, usePipeline, usePlates } from "../query/pipeline";
import { useNowBy } from "../query/place";
import { useTimes } from "../query/times";
import { useReading } from "../query/use";
import { ComparePanel } from "./comparePanel";
import { type Draft, problemsOf, useDraft } from "./draft";
import { DryRunPanel } from "./dryRunPanel";
import { ExporterList } from "./exporterList";
import { LaneRow } from "./lane";
import { OriginsPanel } from "./originsPanel";
import { PipelineFile } from "./pipelineFile";
import { Publishing, Versions } from "./publishing";
import { RecordPanel } from "./recordPanel";
import { type LiveRate, NO_RATE } from "./stepRates";
import { monthly, perMinute, useArrivals, useDryRun } from "./useDryRun";
import { type OwnReadings, useOwnReadings } from "./useOwnReadings";
import { PipelineWarnings } from "./warnings";
import { newExporter, newStep } from "./words";

const GRAIN = 15_000;
const BACK = 2 * MINUTE;
/** Readings, and contracts, that a draft is tried on. */
const MAX_READINGS = 12;
const MAX_CONTRACTS = 500;
const MAX_PLATES = 2000;

/** What comes in and passes steps, a second, as it runs. */
function useLiveRates(published: boolean) {
  const now = useNowBy(GRAIN);
  const span = now > 0 ? { from: now - BACK, to: now } : null;
  const steps = useReading("rate of tin.pipeline.points by step, way", published ? span : null);
  const bytes = useReading("rate of tin.pipeline.bytes by step, way", published ? span : null);
  const points = useReading('rate of tin.intake.points where outcome is "accepted"', span);
  const records = useReading('rate of tin.intake.records where outcome is "accepted" by signal', span);
  const rates = useMemo(() => {
    const found = new Map<string, LiveRate>();
    const note = (step: string, part: Partial<LiveRate>) =>
      found.set(step, { ...(found.get(step) ?? NO_RATE), ...part });
    for (const { labels, total } of steps.data?.series ?? [])
      note(labels.step ?? "", { [labels.way ?? ""]: total ?? 0 });
    for (const { labels, total } of bytes.data?.series ?? [])
      note(labels.step ?? "", { [labels.way === "in" ? "inBytes" : "outBytes"]: total ?? 0 });
    return found;
  }, [steps.data, bytes.data]);
  const recordsOf = (signal: Signal) =>
    records.data
      ? (records.data.series.find(({ labels }) => labels.signal === signal)?.total ?? 0)
      : records.error
        ? 0
        : null;
  const received: Record<Signal, number | null> = {
    metrics: points.data?.series[0]?.total ?? null,
    traces: recordsOf("traces"),
    logs: recordsOf("logs"),
  };
  return { rates, received };
}

/** Instruments with a contract that are looked through for readings. */
const DEFINED = 200;

/** What a draft is tried on: a reading for each instrument with a contract, and those of one's own. */
function useLooked(own: OwnReadings): WatchedReading[] {
  const { data } = useDefinedInstruments(DEFINED);
  return useMemo(() => {
    const agreed = (data ?? [])
      .filter(({ kind }) => kind !== "")
      .slice(0, MAX_READINGS)
      .map(({ name, kind, monotonic }) => {
        const how = kind === "histogram" || kind === "exponential" ? "p95" : monotonic ? "rate" : "mean";
        return { text: `${how} of ${metricText(name)}`, at: "has a contract" };
      });
    const others = own.texts.filter((text) => !agreed.some((one) => one.text === text));
    return [...others.map((text) => ({ text, at: "your own" })), ...agreed];
  }, [data, own.texts]);
}

function Heading({ data, draft }: { data: PipelineAnswer; draft: Draft }) {
  const { moment } = useTimes();
  return (
    <header className="mb-3 flex flex-wrap items-baseline gap-x-3">
      <h1 className="text-[24px] leading-none font-bold">Pipeline</h1>
      <p className="text-muted">
        {data.live.id === 0
          ? "nothing was ever published: all that arrives is stored as it is"
          : `version ${data.live.id} is live since ${moment(data.live.at)}: ${data.live.note} (${data.live.who})`}
      </p>
      {draft.config !== null && (
        <p className="ml-auto flex items-baseline gap-3">
          <b className="text-primary">Draft</b>
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
  );
}

/** The pipeline: what arrivals go through before they are stored and sent on; as it runs, and as it is drafted. */
export function PipelinePage() {
  const { data, error } = usePipeline();
  const draft = useDraft(data?.live);
  const [lane, setLane] = useQueryState("lane", parseAsStringLiteral(SIGNALS).withDefault("metrics"));
  const arrivals = useArrivals();
  const own = useOwnReadings();
  const looked = useLooked(own);
  const contracts = useContracts();
  const plates = usePlates(draft.config !== null).data;
  const [follow, setFollow] = useState<FollowAsked>({ metric: "", find: "" });
  const { rates, received } = useLiveRates((data?.live.id ?? 0) > 0);
  const config = draft.config ?? data?.live.config;
  const problems = useMemo(() => (config ? problemsOf(config) : new Map<string, string>()), [config]);
  const drafting = draft.config !== null;
  const live = data?.live.config;
  const tried = useDryRun(
    arrivals.data,
    live
      ? {
          live,
          draft: problems.size === 0 && draft.config ? draft.config : live,
          readings: drafting ? looked : [],
          contracts: drafting ? (contracts.data ?? []).slice(0, MAX_CONTRACTS) : [],
          plates: drafting ? (plates?.plates ?? []).slice(0, MAX_PLATES) : [],
          follow,
        }
      : null,
  );
  if (error && !data) return <ProblemNote error={error} />;
  if (!data || !config) return <div role="status" aria-label="Reading…" className="plate skeleton-bar h-40" />;
  const dryRuns = new Map(tried.dryRun?.draft.steps.map((one) => [one.id, one]) ?? []);
  const taken = new Set([
    ...SIGNALS.flatMap((signal) => config[signal].map(({ id }) => id)),
    ...config.exporters.map(({ id }) => id),
  ]);
  const change = (part: Partial<PipelineConfig>) => draft.change({ ...config, ...part });
  const setSteps = (signal: Signal, steps: AnyStep[]) => change({ [signal]: steps } as Partial<PipelineConfig>);
  const insert = (step: StepConfig) => change({ metrics: [...config.metrics, step] });
  const { otlp, scrape } = config.receivers;
  return (
    <HoverScope>
      <Heading data={data} draft={draft} />
      <PipelineWarnings
        config={config}
        based={draft.based}
        live={data.live.id}
        drafting={drafting}
        twice={tried.dryRun?.draft.twice ?? []}
      />
      {draft.config && (
        <Publishing config={draft.config} based={draft.based} ready={problems.size === 0} onPublished={draft.giveUp} />
      )}
      {SIGNALS.map((signal) => (
        <LaneRow
          key={signal}
          signal={signal}
          open={signal === lane}
          onOpen={() => void setLane(signal)}
          steps={config[signal]}
          exporters={config.exporters}
          states={data.exporters}
          receives={otlp.includes(signal)}
          onReceive={(on) =>
            change({
              receivers: {
                ...config.receivers,
                otlp: SIGNALS.filter((one) => (one === signal ? on : otlp.includes(one))),
              },
            })
          }
          received={received[signal]}
          scraped={
            signal === "metrics" && (
              <p>
                targets{" "}
                <button
                  type="button"
                  className="slot"
                  aria-label="read targets"
                  onClick={() => change({ receivers: { ...config.receivers, scrape: !scrape } })}
                >
                  {scrape ? "are read" : "are left alone"}
                </button>
              </p>
            )
          }
          waiting={data.waiting
            .filter(({ step }) => config[signal].some(({ id }) => id === step))
            .reduce((sum, { points }) => sum + points, 0)}
          problems={problems}
          dryRuns={dryRuns}
          live={drafting ? new Map() : rates}
          minute={signal === "metrics" ? (amount) => perMinute(tried, amount) : null}
          onSteps={(steps) => setSteps(signal, steps)}
          onAdd={(type) => setSteps(signal, [...config[signal], newStep(signal, type as AnyStep["type"], taken)])}
        />
      ))}
      {lane === "traces" && tried.dryRun && (
        <RecordPanel title="What becomes of spans" many="spans" dryRun={tried.dryRun.draft.spans} />
      )}
      {lane === "logs" && tried.dryRun && (
        <RecordPanel title="What becomes of log records" many="log records" dryRun={tried.dryRun.draft.records} />
      )}
      <DryRunPanel
        tried={tried}
        points={arrivals.data?.points ?? 0}
        drafting={drafting}
        broken={problems.size > 0}
        follow={follow}
        onFollow={setFollow}
        own={own}
        others={plates?.others ?? 0}
        onAgain={() => void arrivals.refetch()}
      />
      {tried.dryRun && (
        <OriginsPanel
          dryRun={tried.dryRun}
          monthly={(amounts) => monthly(tried, amounts)}
          freeId={(type: StepType) => newStep("metrics", type, taken).id}
          onStep={insert}
        />
      )}
      <ExporterList
        exporters={config.exporters}
        states={data.exporters}
        secrets={data.secrets}
        problems={problems}
        onChange={(exporters) => change({ exporters })}
        onAdd={(type) => change({ exporters: [...config.exporters, newExporter(type, taken)] })}
      />
      <ComparePanel exporters={data.live.config.exporters} />
      <Versions versions={data.versions} draft={draft.config} onDraft={draft.change} />
      <PipelineFile version={data.live.id} onDraft={draft.change} />
    </HoverScope>
  );
}
