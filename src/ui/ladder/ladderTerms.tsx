"use client";

import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import type { LadderAnswer } from "@/core/api/releases";
import { conditionStructure, readingStructure } from "@/core/reading/language/grammar";
import type { LadderColumn, LadderSetting } from "@/core/release/setting";
import { digits } from "@/core/unit/format";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";
import { useMay } from "../query/me";
import { Slot } from "../sentence/slot";

/** How the team looks at a service's releases, as a sentence whose slots are kept for the service. */

function useSetting({ service, environment, setting }: LadderAnswer) {
  const client = useQueryClient();
  const [problem, setProblem] = useState<unknown>(null);
  const change = async (part: Partial<LadderSetting>) => {
    try {
      await ask("PUT /api/ladder/setting", { body: { service, environment, setting: { ...setting, ...part } } });
      setProblem(null);
      await client.invalidateQueries({ queryKey: ["ladder"] });
      await client.invalidateQueries({ queryKey: ["comparison"] });
    } catch (error) {
      setProblem(error);
    }
  };
  return { change, problem };
}

const AGAINST = [
  { value: "", label: "the release before it" },
  { value: "beside", label: "the one that serves beside it" },
];

/** What each release is held against. */
export function AgainstSlot({ ladder }: { ladder: LadderAnswer }) {
  const { change } = useSetting(ladder);
  const mayEdit = useMay("edit");
  const { against } = ladder.setting;
  const shown = AGAINST.find(({ value }) => value === against)?.label ?? against;
  if (!mayEdit) return <>{shown}</>;
  const releases = ladder.heard.filter(({ release }) => release !== "").map(({ release }) => ({ value: release }));
  return (
    <Slot
      name="what each is held against"
      options={[...AGAINST, ...releases]}
      onChoose={(value) => void change({ against: value })}
    >
      {shown}
    </Slot>
  );
}

/** Makes the histogram in hand the one that everybody sees first. */
export function ForEverybody({ ladder }: { ladder: LadderAnswer }) {
  const { change, problem } = useSetting(ladder);
  const mayEdit = useMay("edit");
  const usual = ladder.setting.metric === "" ? ladder.metrics.at(0) : ladder.setting.metric;
  if (!mayEdit || ladder.metric === null || ladder.metric === usual) return null;
  return (
    <>
      {" "}
      (
      <button
        type="button"
        className="underline decoration-dotted underline-offset-2"
        onClick={() => void change({ metric: ladder.metric! })}
      >
        for everybody
      </button>
      ){problem !== null && <ProblemNote error={problem} />}
    </>
  );
}

/** A part in percent as a person types it: "5", "5 %", "0.1". */
function percentIn(text: string): number | null {
  const match = /^(\d+(?:\.\d+)?)\s*(%|points)?$/.exec(text.trim());
  return match ? Number(match[1]) / 100 : null;
}

function refusalOf(parse: (text: string) => unknown) {
  return (text: string): string | null => {
    try {
      parse(text);
      return null;
    } catch (error) {
      return (error as Error).message;
    }
  };
}

const GOOD = [
  { value: "less", label: "less is good" },
  { value: "more", label: "more is good" },
  { value: "none", label: "neither is good" },
];

/** A measure of the team's own as it is typed: a name, "=", and a reading. */
function columnIn(text: string): LadderColumn | string {
  const at = text.indexOf("=");
  if (at < 1) return "a name, an equals sign and a reading, such as: waiting = max of reminder.queue.depth by release";
  const [name, reading] = [text.slice(0, at).trim(), text.slice(at + 1).trim()];
  const refusal = refusalOf(readingStructure)(reading);
  if (refusal !== null) return refusal;
  if (!/\bby\b.*\brelease\b/.test(reading)) return "the reading has to be by release";
  return { name, reading, good: "none" };
}

function Columns({
  ladder,
  change,
}: {
  ladder: LadderAnswer;
  change: (part: Partial<LadderSetting>) => Promise<void>;
}) {
  const { columns } = ladder.setting;
  const put = (place: number, part: Partial<LadderColumn>) =>
    change({ columns: columns.map((one, i) => (i === place ? { ...one, ...part } : one)) });
  return (
    <>
      {columns.length > 0 && " Own measures: "}
      {columns.map(({ name, reading, good }, i) => (
        <span key={name}>
          {i > 0 && ", "}
          <span title={reading}>{name}</span> (
          <Slot
            name={`what is good of ${name}`}
            options={GOOD}
            onChoose={(value) => void put(i, { good: value as LadderColumn["good"] })}
          >
            {GOOD.find(({ value }) => value === good)?.label}
          </Slot>
          ,{" "}
          <button
            type="button"
            className="underline decoration-dotted underline-offset-2"
            onClick={() => void change({ columns: columns.filter((_, place) => place !== i) })}
          >
            take it away
          </button>
          )
        </span>
      ))}
      {columns.length > 0 && "."}{" "}
      <Slot
        name="own measure"
        options={[]}
        placeholder="name = reading by release"
        accept={(text) => {
          const column = columnIn(text);
          if (typeof column === "string") return column;
          return columns.some(({ name }) => name === column.name) ? "there is one of that name" : null;
        }}
        onChoose={(text) => {
          const column = columnIn(text);
          if (typeof column !== "string") void change({ columns: [...columns, column] });
        }}
      >
        add a measure of your own
      </Slot>
    </>
  );
}

/** On what terms the ladder judges: what failed is, and what is not worth a word. */
export function LadderTerms({ ladder }: { ladder: LadderAnswer }) {
  const { change, problem } = useSetting(ladder);
  const mayEdit = useMay("edit");
  const { tolerances, columns } = ladder.setting;
  const latency = `${digits(tolerances.latency * 100)} %`;
  const failures = `${digits(tolerances.failures * 100)} points`;
  const within = (least: number, most: number, what: string) => (text: string) => {
    const part = percentIn(text);
    return part !== null && part >= least && part <= most ? null : what;
  };
  return (
    <div className="mt-1.5 px-1 text-[12px] text-muted">
      <p>
        Failed:{" "}
        {mayEdit ? (
          <Slot
            name="which calls failed"
            options={[{ value: "", label: "as the semantic conventions say" }]}
            accept={refusalOf(conditionStructure)}
            placeholder="a condition, such as error.type is there"
            onChoose={(failed) => void change({ failed })}
          >
            <span className="num">{ladder.failed}</span>
          </Slot>
        ) : (
          <span className="num">{ladder.failed}</span>
        )}
        . Not worth a word:{" "}
        {mayEdit ? (
          <>
            <Slot
              name="tolerance of latency"
              options={["2 %", "5 %", "10 %", "20 %"].map((value) => ({ value }))}
              accept={within(0.001, 10, "a part such as 5 %")}
              placeholder="5 %"
              onChoose={(text) =>
                void change({ tolerances: { ...tolerances, latency: percentIn(text) ?? tolerances.latency } })
              }
            >
              {latency}
            </Slot>{" "}
            of p95 and{" "}
            <Slot
              name="tolerance of errors"
              options={["0.05 points", "0.1 points", "0.5 points", "1 points"].map((value) => ({ value }))}
              accept={within(0.00001, 1, "percentage points such as 0.1")}
              placeholder="0.1"
              onChoose={(text) =>
                void change({ tolerances: { ...tolerances, failures: percentIn(text) ?? tolerances.failures } })
              }
            >
              {failures}
            </Slot>
          </>
        ) : (
          `${latency} of p95 and ${failures}`
        )}{" "}
        of errors. Share and rate are of the last 5 minutes of the window; what is said of a change holds at every look
        with 99 %.
        {mayEdit ? (
          <Columns ladder={ladder} change={change} />
        ) : (
          columns.length > 0 && ` Own measures: ${columns.map(({ name }) => name).join(", ")}.`
        )}
      </p>
      {problem !== null && <ProblemNote error={problem} />}
    </div>
  );
}
