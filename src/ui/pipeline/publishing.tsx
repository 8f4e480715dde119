"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { PipelineVersionEntry } from "@/core/api/pipeline";
import type { StepConfig } from "@/core/pipeline/metricSteps";
import { ProblemNote } from "../frame/problemNote";
import { moment } from "../frame/times";
import { postJson } from "../query/api";
import { STEP_WORDS } from "./words";

/** Makes a draft live, with a note. */
export function Publishing({
  steps,
  based,
  ready,
  onPublished,
}: {
  steps: readonly StepConfig[];
  based: number;
  /** Whether nothing is wrong with it. */
  ready: boolean;
  onPublished: () => void;
}) {
  const client = useQueryClient();
  const [note, setNote] = useState("");
  const [who, setWho] = useState("");
  const [problem, setProblem] = useState<unknown>(null);
  const publish = async () => {
    try {
      await postJson("/api/pipeline", { config: { metrics: steps }, note, who, based });
      setProblem(null);
      setNote("");
      await client.invalidateQueries({ queryKey: ["pipeline"] });
      onPublished();
    } catch (error) {
      setProblem(error);
    }
  };
  return (
    <form
      className="plate mb-3 flex flex-wrap items-end gap-3 px-3 py-2"
      onSubmit={(event) => {
        event.preventDefault();
        void publish();
      }}
    >
      <label className="flex-1">
        <span className="block text-[12.5px] text-muted">what changes, in a few words</span>
        <input className="input input-sm w-full" value={note} onChange={(event) => setNote(event.target.value)} />
      </label>
      <label>
        <span className="block text-[12.5px] text-muted">who says so</span>
        <input className="input input-sm w-32" value={who} onChange={(event) => setWho(event.target.value)} />
      </label>
      <button type="submit" className="btn btn-sm btn-primary" disabled={!ready}>
        Publish
      </button>
      {problem !== null && (
        <div className="w-full">
          <ProblemNote error={problem} />
        </div>
      )}
    </form>
  );
}

/** What is another in one version than in the version before, step by step. */
function differences(before: readonly StepConfig[], after: readonly StepConfig[]): string {
  const known = new Map(before.map((step) => [step.id, step]));
  const word = ({ type }: StepConfig) => STEP_WORDS[type].name;
  const parts = after.flatMap((step) => {
    const old = known.get(step.id);
    if (!old) return [`+ ${word(step)}`];
    if (JSON.stringify(old) === JSON.stringify(step)) return [];
    const { on: _, ...rest } = step;
    const { on: __, ...oldRest } = old;
    if (JSON.stringify(rest) === JSON.stringify(oldRest)) return [`${word(step)} ${step.on ? "on" : "off"}`];
    return [`${word(step)} changed`];
  });
  const gone = before.filter(({ id }) => !after.some((step) => step.id === id)).map((step) => `− ${word(step)}`);
  const stays = before.filter(({ id }) => after.some((step) => step.id === id)).map(({ id }) => id);
  const order = after.filter(({ id }) => stays.includes(id)).map(({ id }) => id);
  const moved = order.join() === stays.join() ? [] : ["another order"];
  return [...parts, ...gone, ...moved].join(", ") || "no step is another";
}

/** Every version that was live; any can be the beginning of a draft again. */
export function Versions({
  versions,
  onDraft,
}: {
  versions: readonly PipelineVersionEntry[];
  onDraft: (steps: StepConfig[]) => void;
}) {
  if (versions.length === 0) return null;
  return (
    <section aria-label="Versions" className="plate mt-3 px-3 py-2">
      <h2 className="font-bold">Versions</h2>
      <ul className="text-[13px]">
        {versions.slice(0, 12).map((one, i) => (
          <li key={one.id} className="flex flex-wrap items-baseline gap-x-3 py-0.5">
            <span className="num font-semibold">{one.id}</span>
            <span className="num text-muted">{moment(one.at)}</span>
            <span>{one.who}</span>
            <span>{one.note}</span>
            <span className="text-muted">{differences(versions[i + 1]?.config.metrics ?? [], one.config.metrics)}</span>
            {i === 0 ? (
              <span className="text-primary">live</span>
            ) : (
              <button
                type="button"
                className="slot"
                aria-label={`draft version ${one.id} again`}
                onClick={() => onDraft(one.config.metrics)}
              >
                draft it again
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
