"use client";

import { useState } from "react";
import type { InstrumentKind } from "@/core/contract/contract";
import { type KindAnswers, kindFor } from "@/core/contract/kinds";

const QUESTIONS: readonly { key: keyof KindAnswers; asks: string; when: (answers: KindAnswers) => boolean }[] = [
  { key: "eachEvent", asks: "Is it measured for each event: how long, how large?", when: () => true },
  {
    key: "percentiles",
    asks: "Do you need percentiles, or the share under a bound?",
    when: ({ eachEvent }) => eachEvent,
  },
  {
    key: "boundsKnown",
    asks: "Do you know beforehand which bounds matter?",
    when: ({ eachEvent, percentiles }) => eachEvent && percentiles,
  },
  { key: "goesDown", asks: "Can it go down?", when: ({ eachEvent }) => !eachEvent },
  {
    key: "addsUp",
    asks: "Does the sum over all instances mean something?",
    when: ({ eachEvent, goesDown }) => !eachEvent && goesDown,
  },
];

/** Finds the kind of instrument that fits, by questions. */
export function KindQuestions({ onChoose }: { onChoose: (kind: InstrumentKind) => void }) {
  const [answers, setAnswers] = useState<KindAnswers>({
    eachEvent: false,
    percentiles: false,
    boundsKnown: false,
    goesDown: false,
    addsUp: false,
  });
  const { kind, why } = kindFor(answers);
  return (
    <div className="plate mt-2 max-w-2xl px-3 py-2">
      {QUESTIONS.filter(({ when }) => when(answers)).map(({ key, asks }) => (
        <label key={key} className="flex items-center gap-2 py-0.5">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={answers[key]}
            onChange={(event) => setAnswers({ ...answers, [key]: event.target.checked })}
          />
          {asks}
        </label>
      ))}
      <p className="mt-1">
        Then a <b>{kind}</b>: {why}.{" "}
        <button type="button" className="slot" onClick={() => onChoose(kind)}>
          take it
        </button>
      </p>
    </div>
  );
}
