"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { PipelineVersionEntry } from "@/core/api/pipeline";
import { SIGNALS } from "@/core/otlp/signals";
import type { PipelineConfig } from "@/core/pipeline/config";
import { EMPTY_PIPELINE } from "@/core/pipeline/config";
import { kindOf } from "@/core/pipeline/steps";
import { OnlyWith } from "../frame/onlyWith";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";
import { useTimes } from "../query/times";
import { LineByLine } from "./lineByLine";
import { EXPORTER_WORDS } from "./words";

/** Makes a draft live, with a note. */
export function Publishing({
  config,
  based,
  ready,
  onPublished,
}: {
  config: PipelineConfig;
  based: number;
  /** Whether nothing is wrong with it. */
  ready: boolean;
  onPublished: () => void;
}) {
  const client = useQueryClient();
  const [note, setNote] = useState("");
  const [problem, setProblem] = useState<unknown>(null);
  const publish = async () => {
    try {
      await ask("POST /api/pipeline", { body: { config, note, based } });
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
      <OnlyWith right="own" what="To publish it">
        <button type="submit" className="btn btn-sm btn-primary" disabled={!ready}>
          Publish
        </button>
      </OnlyWith>
      {problem !== null && (
        <div className="w-full">
          <ProblemNote error={problem} />
        </div>
      )}
    </form>
  );
}

/** Everything in a pipeline that has an id, with the part that it is in. */
function partsOf(config: PipelineConfig): { id: string; word: string; of: { on: boolean } }[] {
  return [
    ...SIGNALS.flatMap((signal) => config[signal].map((step) => ({ id: step.id, word: kindOf(step).name, of: step }))),
    ...config.exporters.map((one) => ({ id: one.id, word: EXPORTER_WORDS[one.type].name, of: one })),
  ];
}

/** What is another in one version than in the version before, part by part. */
function differences(before: PipelineConfig, after: PipelineConfig): string {
  const old = partsOf(before);
  const now = partsOf(after);
  const known = new Map(old.map((part) => [part.id, part]));
  const changes = now.flatMap(({ id, word, of }) => {
    const same = known.get(id);
    if (!same) return [`+ ${word}`];
    if (JSON.stringify(same.of) === JSON.stringify(of)) return [];
    const { on: _, ...rest } = of;
    const { on: __, ...oldRest } = same.of;
    if (JSON.stringify(rest) === JSON.stringify(oldRest)) return [`${word} ${of.on ? "on" : "off"}`];
    return [`${word} changed`];
  });
  const gone = old.filter(({ id }) => !now.some((part) => part.id === id)).map(({ word }) => `− ${word}`);
  const stays = old.filter(({ id }) => now.some((part) => part.id === id)).map(({ id }) => id);
  const order = now.filter(({ id }) => known.has(id)).map(({ id }) => id);
  const moved = order.join() === stays.join() ? [] : ["another order"];
  const received = JSON.stringify(before.receivers) === JSON.stringify(after.receivers) ? [] : ["receivers changed"];
  return [...changes, ...gone, ...moved, ...received].join(", ") || "nothing is another";
}

/** Every version that was live; any can be the beginning of a draft again. */
export function Versions({
  versions,
  draft,
  onDraft,
}: {
  versions: readonly PipelineVersionEntry[];
  draft: PipelineConfig | null;
  onDraft: (config: PipelineConfig) => void;
}) {
  const { moment } = useTimes();
  if (versions.length === 0 && !draft) return null;
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
            <span className="text-muted">{differences(versions[i + 1]?.config ?? EMPTY_PIPELINE, one.config)}</span>
            {i === 0 ? (
              <span className="text-primary">live</span>
            ) : (
              <button
                type="button"
                className="slot"
                aria-label={`draft version ${one.id} again`}
                onClick={() => onDraft(one.config)}
              >
                draft it again
              </button>
            )}
          </li>
        ))}
      </ul>
      <LineByLine versions={versions} draft={draft} />
    </section>
  );
}
