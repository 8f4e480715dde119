"use client";

import { useState } from "react";
import { LANGUAGES } from "@/core/code/languages";
import { INSTRUMENT_KINDS, type InstrumentKind } from "@/core/contract/contract";
import { KIND_WORDS } from "@/core/contract/kinds";
import { faultText } from "@/core/schema/fault";
import { parseUnit } from "@/core/unit/unit";
import { UNIT_WORDS, unitInWords } from "@/core/unit/words";
import { CodeBlock } from "../frame/codeBlock";
import { ProblemNote } from "../frame/problemNote";
import { ApiProblem } from "../query/api";
import { Blank } from "../sentence/blank";
import { LanguageSlot } from "../sentence/languageSlot";
import { Slot } from "../sentence/slot";
import { AttributeRows } from "./attributeRows";
import { ContractChecks } from "./contractChecks";
import { ContractSaving } from "./contractSaving";
import { bodyOf, type Draft } from "./draft";
import { KindQuestions } from "./kindQuestions";

function unitProblem(code: string): string | null {
  try {
    parseUnit(code);
    return null;
  } catch (error) {
    return (error as Error).message;
  }
}

/** A contract in the making: said in a sentence, checked as it is written, with the code that fulfils it. */
export function ContractEditor({
  start,
  from,
  onSaved,
}: {
  start: Draft;
  /** What it is changed from; version 0: no contract. */
  from: { name: string; version: number };
  onSaved: (name: string, version: number) => void;
}) {
  const [draft, setDraft] = useState(start);
  const [asking, setAsking] = useState(false);
  const [language, setLanguage] = useState(LANGUAGES[0]);
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
              new ApiProblem(
                { title: "Not a contract yet", detail: `${issue.path.join(".")}: ${faultText(issue.message)}` },
                400,
              )
            }
          />
        </div>
      )}
      {body && <ContractChecks body={body} />}
      <ContractSaving body={body} from={from} onSaved={onSaved} />
      {body && (
        <section className="mt-4">
          <h2 className="mb-1.5 text-[15px] font-bold">
            In <LanguageSlot language={language} onChoose={setLanguage} />
          </h2>
          <div className="grid grid-cols-1 gap-3 lg:grid-cols-2">
            {language.instrument(body).map(({ title, text }) => (
              <CodeBlock key={title} title={title} text={text} />
            ))}
          </div>
        </section>
      )}
    </>
  );
}
