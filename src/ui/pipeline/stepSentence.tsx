import { type AnyStep, kindOf } from "@/core/pipeline/steps";
import type { Fragment } from "@/core/pipeline/steps/sentence";
import { Blank } from "../sentence/blank";
import { Amount, Choice, Either, Folds, List, type Part, Percent, Text } from "./stepParts";

/** A step as a sentence; its slots change it in place. What it says is the step's own; here it is drawn. */

function Drawn({ fragment, ...part }: Part & { fragment: Fragment }) {
  if (typeof fragment === "string") return fragment;
  switch (fragment.slot) {
    case "text":
      return <Text {...part} {...fragment} />;
    case "number":
      return <Amount {...part} {...fragment} />;
    case "names":
      return <List {...part} {...fragment} />;
    case "numbers":
      return <List {...part} {...fragment} numbers />;
    case "share":
      return <Percent {...part} {...fragment} />;
    case "choice":
      return <Choice {...part} {...fragment} />;
    case "either":
      return <Either {...part} {...fragment} />;
    case "folds":
      return <Folds {...part} />;
    case "beside":
      return (
        <span className="text-muted">
          <Fragments {...part} all={fragment.fragments} />
        </span>
      );
  }
}

/** What a fragment is known by: its place alone would give a slot another one's half-written text. */
function keyOf(fragment: Fragment, place: number): string {
  return typeof fragment === "object" && "field" in fragment ? fragment.field : `place ${place}`;
}

function Fragments({ all, ...part }: Part & { all: readonly Fragment[] }) {
  return all.map((fragment, place) => <Drawn key={keyOf(fragment, place)} {...part} fragment={fragment} />);
}

export function StepSentence({ step, onChange }: { step: AnyStep; onChange: (part: object) => void }) {
  return (
    <p className="text-[14.5px] leading-relaxed">
      where{" "}
      <Blank name="condition" value={step.where} placeholder="anything" onChange={(where) => onChange({ where })} />{" "}
      <Fragments of={step} onChange={onChange} all={kindOf(step).sentence(step)} />
    </p>
  );
}
