"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { ExporterState } from "@/core/api/pipeline";
import { originOf } from "@/core/http/origin";
import { SIGNALS, type Signal } from "@/core/otlp/signals";
import type { ExporterConfig, ExporterType } from "@/core/pipeline/exporters";
import { OnlyWith } from "../frame/onlyWith";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";
import { useMay } from "../query/me";
import { useTimes } from "../query/times";
import { Slot } from "../sentence/slot";
import { stateText } from "./lane";
import { Amount, Choice, Either, Text } from "./stepParts";
import { EXPORTER_WORDS } from "./words";

/** Exporters as sentences, with how they do. */

interface Secret {
  exporter: string;
  name: string;
  /** Where it is sent to. */
  origin: string;
}

/** Keeps the value of a secret header for an address; what is kept is never shown. */
function SecretBlank({
  exporter,
  name,
  address,
  secrets,
}: {
  exporter: string;
  name: string;
  address: string;
  secrets: readonly Secret[];
}) {
  const kept = secrets.find((one) => one.exporter === exporter && one.name === name);
  const elsewhere = kept !== undefined && kept.origin !== originOf(address);
  const client = useQueryClient();
  const mayOwn = useMay("own");
  const [value, setValue] = useState("");
  const [problem, setProblem] = useState<unknown>(null);
  const keep = async (text: string) => {
    try {
      await ask("POST /api/pipeline/secrets", { body: { exporter, name, value: text, address } });
      setValue("");
      setProblem(null);
      await client.invalidateQueries({ queryKey: ["pipeline"] });
    } catch (error) {
      setProblem(error);
    }
  };
  return (
    <span className="inline-flex flex-wrap items-baseline gap-x-1">
      <span className="num">{name}</span>{" "}
      {elsewhere ? (
        <span className="text-error">✕ is kept for {kept.origin || "no address"} only: enter it again</span>
      ) : kept ? (
        "is kept"
      ) : (
        "is not set"
      )}
      <OnlyWith right="own">
        <input
          aria-label={`${name} of ${exporter}`}
          type="password"
          autoComplete="off"
          className="input input-xs w-28"
          value={value}
          onChange={(event) => setValue(event.target.value)}
        />
        <button type="button" className="slot" disabled={value === ""} onClick={() => void keep(value)}>
          keep it
        </button>
      </OnlyWith>
      {kept && mayOwn && (
        <button type="button" className="slot" onClick={() => void keep("")}>
          forget it
        </button>
      )}
      {problem !== null && <ProblemNote error={problem} />}
    </span>
  );
}

/** Names with commas, kept as a list. */
function SecretNames({
  exporter,
  secrets,
  onChange,
}: {
  exporter: Extract<ExporterConfig, { type: "otlp" }>;
  secrets: readonly Secret[];
  onChange: (part: object) => void;
}) {
  const text = exporter.secrets.join(", ");
  return (
    <>
      , with the secret headers{" "}
      <Text
        of={{ text }}
        onChange={(part) => {
          const names = (part as { text: string }).text;
          onChange({ secrets: names === "" ? [] : names.split(",").map((one) => one.trimStart()) });
        }}
        field="text"
        name={`secret headers of ${exporter.id}`}
        placeholder="none"
      />
      {exporter.secrets.length > 0 && (
        <span className="block">
          {exporter.secrets
            .filter((name) => name.trim() !== "")
            .map((name) => (
              <SecretBlank
                key={name}
                exporter={exporter.id}
                name={name.trim()}
                address={exporter.url}
                secrets={secrets}
              />
            ))}
        </span>
      )}
    </>
  );
}

function Signals({ exporter, onChange }: { exporter: ExporterConfig; onChange: (part: object) => void }) {
  if (exporter.type === "openmetrics") return <>metrics</>;
  const some = exporter.signals as readonly Signal[];
  const toggle = (name: string) => {
    const next = SIGNALS.filter((one) => (one === name ? !some.includes(one) : some.includes(one)));
    if (next.length > 0) onChange({ signals: next });
  };
  return (
    <Slot
      name={`signals of ${exporter.id}`}
      options={SIGNALS.map((value) => ({ value, note: some.includes(value) ? "✓ on" : "" }))}
      onChoose={toggle}
    >
      {some.join(", ")}
    </Slot>
  );
}

function Sentence({
  exporter,
  secrets,
  onChange,
}: {
  exporter: ExporterConfig;
  secrets: readonly Secret[];
  onChange: (part: object) => void;
}) {
  const part = { of: exporter, onChange };
  const signals = <Signals exporter={exporter} onChange={onChange} />;
  switch (exporter.type) {
    case "store":
      return <>{signals} to the store of Tin Ladder</>;
    case "otlp":
      return (
        <>
          {signals} to <Text {...part} field="url" name={`address of ${exporter.id}`} /> as{" "}
          <Choice {...part} field="encoding" name="encoding" words={{ protobuf: "protobuf", json: "JSON" }} />,{" "}
          <Either {...part} field="gzip" name="gzip" yes="packed with gzip" no="not packed" />, counters{" "}
          <Choice
            {...part}
            field="temporality"
            name="temporality"
            words={{ "as it comes": "as they come", delta: "as increments", cumulative: "as running totals" }}
          />
          , up to <Amount {...part} field="batch" name="batch" /> at once, waiting up to{" "}
          <Amount {...part} field="wait" name="seconds to wait for more" /> s for more, for an answer{" "}
          <Amount {...part} field="timeout" name="seconds to wait for an answer" /> s; the queue holds{" "}
          <Amount {...part} field="most" name="megabytes of the queue" /> MB; its copy can be read at{" "}
          <Text {...part} field="copy" name={`copy of ${exporter.id}`} placeholder="nowhere" />
          <SecretNames exporter={exporter} secrets={secrets} onChange={onChange} />
        </>
      );
    case "openmetrics":
      return (
        <>
          metrics to a page at <span className="num">/exports/{exporter.id}</span> of the intake,{" "}
          <Either
            {...part}
            field="open"
            name={`who may read ${exporter.id}`}
            yes="open to everybody"
            no="read with its token only"
          />
          {exporter.open && !secrets.some((one) => one.exporter === exporter.id && one.name === "token") && (
            <span className="text-warning"> ◆ whoever reaches the intake reads it</span>
          )}
          ; its <SecretBlank exporter={exporter.id} name="token" address="" secrets={secrets} />
        </>
      );
    case "file":
      return (
        <>
          {signals} to files <span className="num">{exporter.id}.jsonl</span>, begun anew at{" "}
          <Amount {...part} field="size" name="megabytes of a file" /> MB, of which{" "}
          <Amount {...part} field="files" name="files that are kept" /> are kept
        </>
      );
  }
}

export function ExporterList({
  exporters,
  states,
  secrets,
  problems,
  onChange,
  onAdd,
}: {
  exporters: readonly ExporterConfig[];
  states: readonly ExporterState[];
  secrets: readonly Secret[];
  problems: ReadonlyMap<string, string>;
  onChange: (exporters: ExporterConfig[]) => void;
  onAdd: (type: ExporterType) => void;
}) {
  const { clock } = useTimes();
  const change = (id: string, part: object) =>
    onChange(exporters.map((one) => (one.id === id ? ({ ...one, ...part } as ExporterConfig) : one)));
  const offered = (Object.keys(EXPORTER_WORDS) as ExporterType[]).filter(
    (type) => type !== "store" || !exporters.some((one) => one.type === "store"),
  );
  return (
    <section aria-label="Exporters" className="plate mt-3 px-3 py-2">
      <h2 className="font-bold">Exporters</h2>
      <ul>
        {exporters.map((exporter) => {
          const state = states.find((one) => one.exporter === exporter.id);
          const { text, wrong } = stateText(state);
          const problem = problems.get(exporter.id);
          return (
            <li
              key={exporter.id}
              className={`border-t border-base-300 py-1.5 text-[14px] leading-relaxed first:border-t-0 ${exporter.on ? "" : "opacity-60"}`}
            >
              <Sentence exporter={exporter} secrets={secrets} onChange={(part) => change(exporter.id, part)} />
              {problem && (
                <p role="alert" className="text-[13px] text-error">
                  ✕ {problem}
                </p>
              )}
              {exporter.type !== "store" && (
                <p className={`text-[12.5px] ${wrong ? "text-error" : "text-muted"}`}>
                  {wrong && "✕ "}
                  {text}
                  {state?.failure && (
                    <>
                      ; {state.failure}
                      {state.failedAt !== null && ` at ${clock(state.failedAt, true)}`}
                      {state.retryAt !== null && `, tried again at ${clock(state.retryAt, true)}`}
                    </>
                  )}
                </p>
              )}
              <p className="flex gap-3 text-[12.5px]">
                <button
                  type="button"
                  className="slot"
                  aria-label={`switch ${exporter.id} ${exporter.on ? "off" : "on"}`}
                  onClick={() => change(exporter.id, { on: !exporter.on })}
                >
                  {exporter.on ? "switch off" : "switch on"}
                </button>
                <button
                  type="button"
                  className="slot"
                  aria-label={`take ${exporter.id} out`}
                  onClick={() => onChange(exporters.filter(({ id }) => id !== exporter.id))}
                >
                  take out
                </button>
              </p>
            </li>
          );
        })}
      </ul>
      <p>
        <Slot
          name="add an exporter"
          options={offered.map((value) => ({
            value,
            label: EXPORTER_WORDS[value].name,
            note: EXPORTER_WORDS[value].does,
          }))}
          onChoose={(type) => onAdd(type as ExporterType)}
          placeholder="Find an exporter"
        >
          add an exporter
        </Slot>
      </p>
    </section>
  );
}
