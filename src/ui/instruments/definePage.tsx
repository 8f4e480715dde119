"use client";

import { useQueryClient } from "@tanstack/react-query";
import Link from "next/link";
import { parseAsString, useQueryState } from "nuqs";
import { useState } from "react";
import type { InstrumentAnswer } from "@/core/api/instruments";
import { instrumentCode } from "@/core/code/instrument";
import { LANGUAGES, type Language } from "@/core/code/languages";
import { instrumentOf } from "@/core/contract/conform";
import {
  type ContractAttribute,
  type ContractBody,
  contractBody,
  forecastSeries,
  INSTRUMENT_KINDS,
  type InstrumentKind,
} from "@/core/contract/contract";
import { KIND_WORDS } from "@/core/contract/kinds";
import { remarksOn } from "@/core/contract/naming";
import type { Kind } from "@/core/metric/model";
import { parseUnit } from "@/core/unit/unit";
import { UNIT_WORDS, unitInWords } from "@/core/unit/words";
import { Blank } from "../add/blank";
import { CodeBlock } from "../add/codeBlock";
import { ProblemNote } from "../frame/problemNote";
import { ApiProblem, postJson } from "../query/api";
import { useContractHistory, useInstrument } from "../query/instruments";
import { Slot } from "../sentence/slot";
import { count } from "../store/amounts";
import { ContractVersions } from "./contractVersions";
import { KindQuestions } from "./kindQuestions";

/** What is being written: numbers and lists as text, until they are understood. */
interface Draft {
  name: string;
  kind: InstrumentKind;
  unit: string;
  description: string;
  service: string;
  instances: string;
  silentAfter: string;
  bounds: string;
  attributes: { name: string; required: boolean; values: string; pattern: string; expected: string }[];
}

const EMPTY: Draft = {
  name: "",
  kind: "counter",
  unit: "",
  description: "",
  service: "",
  instances: "1",
  silentAfter: "",
  bounds: "",
  attributes: [],
};

function draftOf(body: ContractBody): Draft {
  return {
    name: body.name,
    kind: body.kind,
    unit: body.unit,
    description: body.description,
    service: body.service,
    instances: String(body.instances),
    silentAfter: body.silentAfter === null ? "" : String(body.silentAfter),
    bounds: body.bounds?.join(", ") ?? "",
    attributes: body.attributes.map((one) => ({
      name: one.name,
      required: one.required,
      values: one.values.join(", "),
      pattern: one.pattern,
      expected: one.expected === null ? "" : String(one.expected),
    })),
  };
}

/** Attribute values are written down where they are so few. */
const FEW = 12;

/** What arrived, as a first draft of a contract. */
function draftOfArrived(data: InstrumentAnswer): Draft {
  const [first] = data.variants;
  const kind = first ? instrumentOf({ kind: first.kind as Kind, monotonic: first.monotonic }) : "counter";
  const instances = data.attributes.find(({ name }) => name === "service.instance.id")?.distinct ?? 1;
  return {
    ...EMPTY,
    name: data.name,
    kind: kind === "summary" ? "histogram" : kind,
    unit: first?.unit ?? "",
    description: first?.description ?? "",
    instances: String(instances),
    attributes: data.attributes
      .filter(({ place }) => place === "point")
      .map(({ name, values, distinct, missing }) => ({
        name,
        required: missing === 0,
        values: distinct <= FEW ? values.map(({ value }) => value).join(", ") : "",
        pattern: "",
        expected: String(distinct),
      })),
  };
}

const list = (text: string) =>
  text
    .split(",")
    .map((one) => one.trim())
    .filter(Boolean);
const number = (text: string) => (text.trim() === "" ? null : Number(text));

function bodyOf(draft: Draft) {
  return contractBody.safeParse({
    ...draft,
    instances: number(draft.instances) ?? 1,
    silentAfter: number(draft.silentAfter),
    bounds: draft.kind === "histogram" && draft.bounds.trim() !== "" ? list(draft.bounds).map(Number) : null,
    attributes: draft.attributes
      .filter(({ name }) => name.trim() !== "")
      .map(
        ({ name, required, values, pattern, expected }): ContractAttribute => ({
          name: name.trim(),
          required,
          values: list(values),
          pattern: pattern.trim(),
          expected: number(expected),
        }),
      ),
  });
}

function unitProblem(code: string): string | null {
  try {
    parseUnit(code);
    return null;
  } catch (error) {
    return (error as Error).message;
  }
}

function AttributeRows({ draft, onChange }: { draft: Draft; onChange: (attributes: Draft["attributes"]) => void }) {
  const { attributes } = draft;
  const change = (i: number, part: Partial<Draft["attributes"][number]>) =>
    onChange(attributes.map((one, at) => (at === i ? { ...one, ...part } : one)));
  return (
    <section className="plate mt-3 px-3 py-2">
      <h2 className="font-bold">Attributes</h2>
      {attributes.length > 0 && (
        <table className="mt-1 w-full border-collapse text-[13px]">
          <thead className="text-left">
            <tr>
              {["name", "must be there", "expected values, with commas", "or a pattern", "how many values", ""].map(
                (head) => (
                  <th key={head} scope="col" className="pr-3 font-normal text-muted">
                    {head || <span className="sr-only">take out</span>}
                  </th>
                ),
              )}
            </tr>
          </thead>
          <tbody>
            {attributes.map((one, i) => (
              <tr key={i}>
                <td className="py-0.5 pr-3">
                  <input
                    aria-label={`attribute ${i + 1}: name`}
                    className="input input-sm num w-44"
                    value={one.name}
                    onChange={(event) => change(i, { name: event.target.value })}
                  />
                </td>
                <td className="pr-3">
                  <input
                    aria-label={`attribute ${i + 1}: must be there`}
                    type="checkbox"
                    className="checkbox checkbox-xs"
                    checked={one.required}
                    onChange={(event) => change(i, { required: event.target.checked })}
                  />
                </td>
                <td className="w-full pr-3">
                  <input
                    aria-label={`attribute ${i + 1}: expected values`}
                    className="input input-sm num w-full"
                    value={one.values}
                    onChange={(event) => change(i, { values: event.target.value })}
                  />
                </td>
                <td className="pr-3">
                  <input
                    aria-label={`attribute ${i + 1}: pattern`}
                    className="input input-sm num w-32"
                    value={one.pattern}
                    onChange={(event) => change(i, { pattern: event.target.value })}
                  />
                </td>
                <td className="pr-3">
                  <input
                    aria-label={`attribute ${i + 1}: how many values`}
                    type="number"
                    min={1}
                    className="input input-sm num w-24"
                    value={one.expected}
                    onChange={(event) => change(i, { expected: event.target.value })}
                  />
                </td>
                <td>
                  <button
                    type="button"
                    className="slot"
                    aria-label={`take out attribute ${i + 1}`}
                    onClick={() => onChange(attributes.filter((_, at) => at !== i))}
                  >
                    ✕
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <button
        type="button"
        className="slot mt-1"
        onClick={() => onChange([...attributes, { name: "", required: true, values: "", pattern: "", expected: "" }])}
      >
        add an attribute
      </button>
    </section>
  );
}

/** Above this many series an instrument is worth a second thought. */
const MANY = 10_000;

function Checks({ body }: { body: ContractBody }) {
  const { series, open } = forecastSeries(body);
  const remarks = remarksOn(body);
  return (
    <section aria-label="What the rules say" className="plate mt-3 px-3 py-2">
      <h2 className="font-bold">
        It will make about <span className={`num ${series > MANY ? "text-error" : ""}`}>{count(series)}</span>{" "}
        {series === 1 ? "series" : "series"}
        {series > MANY && <span className="text-error"> ▼ that is a lot: which attribute could be left out?</span>}
      </h2>
      <p className="text-muted">
        {body.instances} {body.instances === 1 ? "instance" : "instances"}
        {body.attributes.map(({ name, expected, values, required }) => (
          <span key={name}>
            {" "}
            × <span className="num">{name}</span> {(expected ?? (values.length || 1)) + (required ? 0 : 1)}
          </span>
        ))}
        {open.length > 0 && (
          <span className="text-warning"> ◆ {open.join(", ")} counted as one value: say how many are expected</span>
        )}
      </p>
      <ul className="mt-1">
        {remarks.map(({ weight, about, text }) => (
          <li key={text} className={weight === "wrong" ? "text-error" : "text-warning"}>
            {weight === "wrong" ? "✕" : "◆"} {about}: <span className="text-base-content">{text}</span>
          </li>
        ))}
        {remarks.length === 0 && <li className="text-success">✓ name and unit are as the naming rules want them</li>}
      </ul>
    </section>
  );
}

function Saving({ body, onSaved }: { body: ContractBody | null; onSaved: (name: string, version: number) => void }) {
  const client = useQueryClient();
  const [note, setNote] = useState("");
  const [who, setWho] = useState("");
  const [problem, setProblem] = useState<unknown>(null);
  const save = async () => {
    if (!body) return;
    try {
      const { version } = await postJson<{ version: number }>("/api/contracts", { body, note, who });
      setProblem(null);
      setNote("");
      await client.invalidateQueries({ queryKey: ["contract"] });
      await client.invalidateQueries({ queryKey: ["instrument"] });
      onSaved(body.name, version);
    } catch (error) {
      setProblem(error);
    }
  };
  return (
    <section className="plate mt-3 px-3 py-2">
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          void save();
        }}
      >
        <label className="flex-1">
          <span className="block text-[12.5px] text-muted">what changed, in a few words</span>
          <input className="input input-sm w-full" value={note} onChange={(event) => setNote(event.target.value)} />
        </label>
        <label>
          <span className="block text-[12.5px] text-muted">who says so</span>
          <input className="input input-sm w-40" value={who} onChange={(event) => setWho(event.target.value)} />
        </label>
        <button type="submit" className="btn btn-sm btn-primary" disabled={!body}>
          Save the contract
        </button>
      </form>
      {problem !== null && <ProblemNote error={problem} />}
    </section>
  );
}

function Editor({ start, onSaved }: { start: Draft; onSaved: (name: string, version: number) => void }) {
  const [draft, setDraft] = useState(start);
  const [asking, setAsking] = useState(false);
  const [language, setLanguage] = useState<Language>("TypeScript");
  const change = (part: Partial<Draft>) => setDraft((now) => ({ ...now, ...part }));
  const parsed = bodyOf(draft);
  const body = parsed.success ? parsed.data : null;
  const issue = parsed.success ? null : parsed.error.issues[0];
  return (
    <>
      <p className="text-[15px] leading-loose">
        <Blank name="name" value={draft.name} onChange={(name) => change({ name })} placeholder="loan.extended" /> is a{" "}
        <Slot
          name="kind"
          options={INSTRUMENT_KINDS.map((value) => ({ value }))}
          onChoose={(kind) => change({ kind: kind as InstrumentKind })}
        >
          {draft.kind}
        </Slot>{" "}
        in{" "}
        <Slot
          name="unit"
          options={UNIT_WORDS.map(({ code, words }) => ({ value: code, label: code, note: words }))}
          onChoose={(unit) => change({ unit })}
          accept={(text) => unitProblem(text)}
          placeholder="seconds, {loan}…"
        >
          {draft.unit === "" ? "no unit" : `${unitInWords(draft.unit)} (${draft.unit})`}
        </Slot>
        , reported by{" "}
        <Blank
          name="service"
          value={draft.service}
          onChange={(service) => change({ service })}
          placeholder="any service"
        />{" "}
        from <Blank name="instances" value={draft.instances} onChange={(instances) => change({ instances })} />{" "}
        instances, missing after{" "}
        <Blank
          name="minutes of silence"
          value={draft.silentAfter}
          onChange={(silentAfter) => change({ silentAfter })}
          placeholder="any"
        />{" "}
        minutes of silence.
      </p>
      <p className="text-muted">
        A {draft.kind}: {KIND_WORDS[draft.kind]}.{" "}
        <button type="button" className="slot" aria-expanded={asking} onClick={() => setAsking(!asking)}>
          which kind fits?
        </button>
      </p>
      {asking && (
        <KindQuestions
          onChoose={(kind) => {
            change({ kind });
            setAsking(false);
          }}
        />
      )}
      <label className="mt-2 block">
        <span className="text-muted">What it says, in a sentence</span>
        <input
          className="input input-sm block w-full max-w-2xl"
          value={draft.description}
          onChange={(event) => change({ description: event.target.value })}
        />
      </label>
      {draft.kind === "histogram" && (
        <label className="mt-2 block">
          <span className="text-muted">Bucket bounds, with commas; empty for those the SDK takes</span>
          <input
            className="input input-sm num block w-full max-w-2xl"
            value={draft.bounds}
            onChange={(event) => change({ bounds: event.target.value })}
          />
        </label>
      )}
      <AttributeRows draft={draft} onChange={(attributes) => change({ attributes })} />
      {issue && draft.name !== "" && (
        <div className="mt-3">
          <ProblemNote
            error={
              new ApiProblem({ title: "Not a contract yet", detail: `${issue.path.join(".")}: ${issue.message}` }, 400)
            }
          />
        </div>
      )}
      {body && <Checks body={body} />}
      <Saving body={body} onSaved={onSaved} />
      {body && (
        <section className="mt-4">
          <h2 className="mb-1.5 text-[15px] font-bold">
            In{" "}
            <Slot
              name="language"
              options={LANGUAGES.map((value) => ({ value }))}
              onChoose={(value) => setLanguage(value as Language)}
            >
              {language}
            </Slot>
          </h2>
          <div className="grid grid-cols-1 gap-3 lg:grid-cols-2">
            {instrumentCode(language, body).map(({ title, text }) => (
              <CodeBlock key={title} title={title} text={text} />
            ))}
          </div>
        </section>
      )}
    </>
  );
}

/** Says what an instrument must look like: a contract that arrivals are held against, and the code that fulfils it. */
export function DefinePage() {
  const [metric, setMetric] = useQueryState("metric", parseAsString.withDefault(""));
  const [version, setVersion] = useState(0);
  const [saved, setSaved] = useState<number | null>(null);
  const known = useInstrument(metric);
  const history = useContractHistory(metric);
  const latest = history.data?.[0]?.body ?? null;
  const ready = metric === "" || ((known.data || known.error) && (history.data || history.error));
  const start = latest ? draftOf(latest) : known.data ? draftOfArrived(known.data) : { ...EMPTY, name: metric };
  return (
    <>
      <header className="mb-2 flex items-baseline gap-3">
        <h1 className="text-[24px] font-bold leading-none">{latest ? "Contract" : "Define an instrument"}</h1>
        {metric !== "" && known.data && (
          <Link className="slot ml-auto" href={`/instruments/one?metric=${encodeURIComponent(metric)}`}>
            see {metric}
          </Link>
        )}
      </header>
      {ready ? (
        <Editor
          key={`${metric} ${version} ${latest ? "held" : "open"}`}
          start={start}
          onSaved={(name, number) => {
            setSaved(number);
            void setMetric(name);
          }}
        />
      ) : (
        <div role="status" aria-label="Reading…" className="plate skeleton-bar h-40" />
      )}
      {saved !== null && (
        <p role="status" className="mt-2 text-success">
          ✓ Saved as version {saved}. Arrivals are held against it within seconds.
        </p>
      )}
      {history.data && history.data.length > 0 && (
        <ContractVersions versions={history.data} onRestored={() => setVersion(version + 1)} />
      )}
    </>
  );
}
