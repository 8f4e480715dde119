"use client";

import type { ReactNode } from "react";
import type { ExporterState } from "@/core/api/pipeline";
import type { StepDryRun } from "@/core/draft/dryRun";
import type { Signal } from "@/core/otlp/signals";
import { type ExporterConfig, exportersOf } from "@/core/pipeline/exporters";
import { type AnyStep, kindOf, STEPS_OF } from "@/core/pipeline/steps";
import { count, size } from "../frame/amounts";
import { Slot } from "../sentence/slot";
import { StepList } from "./stepList";
import type { LiveRate } from "./stepRates";
import { EXPORTER_WORDS, SIGNAL_WORDS } from "./words";

/** One lane: what comes in at the left, steps in their order, where it goes at the right. */

function End({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section aria-label={title} className="w-full shrink-0 text-[13px] md:w-40">
      {children}
    </section>
  );
}

/** How an exporter does, in a few words. */
export function stateText(state: ExporterState | undefined): { text: string; wrong: boolean } {
  if (!state) return { text: "nothing went there yet", wrong: false };
  const waits = state.items > 0 ? `${count(state.items)} wait, ${size(state.bytes)}` : "";
  const lost = state.lost > 0 ? `${count(state.lost)} lost: the queue was full` : "";
  const refused = state.refused > 0 ? `${count(state.refused)} refused` : "";
  const text = [`${count(state.sent)} sent`, waits, refused, lost].filter(Boolean).join("; ");
  return { text, wrong: state.failure !== null || state.lost > 0 };
}

function Outlet({ exporter, state }: { exporter: ExporterConfig; state: ExporterState | undefined }) {
  const { name } = EXPORTER_WORDS[exporter.type];
  if (exporter.type === "store") return <li className="py-0.5">{name}</li>;
  const { text, wrong } = stateText(state);
  return (
    <li className="py-0.5">
      {name} <span className="num text-muted">{exporter.id}</span>
      <div className={`text-[12px] ${wrong ? "text-error" : "text-muted"}`}>
        {wrong && "✕ "}
        {text}
      </div>
    </li>
  );
}

export interface LaneProps {
  signal: Signal;
  /** Closed, it is one line. */
  open: boolean;
  onOpen: () => void;
  steps: readonly AnyStep[];
  exporters: readonly ExporterConfig[];
  states: readonly ExporterState[];
  receives: boolean;
  onReceive: (receives: boolean) => void;
  /** Points, spans or records a second that are received; null while it is not known. */
  received: number | null;
  /** What is read from targets comes in as well. */
  scraped: ReactNode;
  waiting: number;
  problems: ReadonlyMap<string, string>;
  dryRuns: ReadonlyMap<string, StepDryRun>;
  live: ReadonlyMap<string, LiveRate>;
  /** What was tried, as it comes in a minute; null where that is not known. */
  minute: ((amount: number) => number) | null;
  onSteps: (steps: AnyStep[]) => void;
  onAdd: (type: string) => void;
}

/** A lane in one line: what comes in, through which steps, and where it goes. */
function ClosedLane({ signal, onOpen, steps, exporters, states, receives, received, problems, dryRuns }: LaneProps) {
  const { many } = SIGNAL_WORDS[signal];
  const on = steps.filter((step) => step.on);
  const ends = exportersOf(exporters, signal);
  const wrong =
    steps.some(({ id }) => problems.has(id) || (dryRuns.get(id)?.problem ?? null) !== null) ||
    ends.some(({ id }) => stateText(states.find(({ exporter }) => exporter === id)).wrong);
  return (
    <section aria-label={`The lane for ${signal}`} className="plate mb-2 border-l-4 border-l-base-300">
      <button
        type="button"
        aria-expanded={false}
        onClick={onOpen}
        className="flex w-full flex-wrap items-baseline gap-x-4 px-3 py-2 text-left hover:text-primary"
      >
        <span className="w-20 text-[16px] font-bold">{signal}</span>
        <span className="num text-[13px]">
          {receives ? (received === null ? "…" : `${received.toFixed(1)} ${many}/s`) : "turned away"}
        </span>
        <span className="min-w-0 flex-1 truncate text-muted">
          {on.length === 0 ? "no steps" : on.map((step) => kindOf(step).name).join(" → ")}
        </span>
        <span className="text-[13px]">
          {wrong && <span className="text-error">✕ </span>}
          {ends.length === 0 ? "goes nowhere" : `goes to ${ends.map(({ id }) => id).join(", ")}`}
        </span>
      </button>
    </section>
  );
}

export function LaneRow(props: LaneProps) {
  const { signal, open, steps, exporters, states, receives, onReceive, received, scraped, waiting } = props;
  const { many } = SIGNAL_WORDS[signal];
  const ends = exportersOf(exporters, signal);
  if (!open) return <ClosedLane {...props} />;
  return (
    <section
      aria-label={`The lane for ${signal}`}
      className="plate mb-2 flex flex-col gap-3 border-l-4 border-l-primary px-3 py-2 md:flex-row"
    >
      <End title={`Receivers of ${signal}`}>
        <h2 className="text-[16px] font-bold">{signal}</h2>
        <p>
          OTLP{" "}
          <button type="button" className="slot" aria-label={`receive ${signal}`} onClick={() => onReceive(!receives)}>
            {receives ? "is received" : "is turned away"}
          </button>
        </p>
        <p className="num">{received === null ? "…" : `${received.toFixed(1)} ${many}/s`}</p>
        {scraped}
      </End>
      <div className="min-w-0 flex-1">
        {steps.length === 0 && <p className="py-1 text-muted">No steps: {many} go through as they are.</p>}
        <StepList
          signal={signal}
          steps={steps}
          problems={props.problems}
          dryRuns={props.dryRuns}
          live={props.live}
          minute={props.minute}
          onSteps={props.onSteps}
        />
        <p>
          <Slot
            name={`add a step for ${signal}`}
            options={STEPS_OF[signal].map(({ type, name, does }) => ({ value: type, label: name, note: does }))}
            onChoose={props.onAdd}
            placeholder="Find a step"
          >
            add a step
          </Slot>
        </p>
      </div>
      <End title={`Exporters of ${signal}`}>
        <h3 className="font-bold">goes to</h3>
        {ends.length === 0 && <p className="text-warning">◆ nowhere: {many} are lost here</p>}
        <ul>
          {ends.map((exporter) => (
            <Outlet key={exporter.id} exporter={exporter} state={states.find((one) => one.exporter === exporter.id)} />
          ))}
        </ul>
        {waiting > 0 && (
          <p className="text-muted">
            <span className="num">{count(waiting)}</span> wait in a step
          </p>
        )}
      </End>
    </section>
  );
}
