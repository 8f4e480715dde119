import type { ReactNode } from "react";
import type { StepConfig } from "@/core/pipeline/metricSteps";
import { FOLDS, LEVEL_HOWS } from "@/core/pipeline/parts";
import { Blank } from "../add/blank";
import { Slot } from "../sentence/slot";
import { FOLD_WORDS } from "./words";

/** A step as a sentence; its slots change it in place. */

interface Part {
  step: StepConfig;
  /** Changes some of the step's settings. */
  onChange: (part: object) => void;
}

const options = (all: readonly string[], words: Readonly<Record<string, string>> = {}) =>
  all.map((value) => ({ value, label: words[value] ?? value }));

function Text({ step, onChange, field, name }: Part & { field: string; name: string }) {
  const value = String((step as unknown as Record<string, unknown>)[field] ?? "");
  return <Blank name={name} value={value} onChange={(text) => onChange({ [field]: text })} />;
}

function Amount({ step, onChange, field, name }: Part & { field: string; name: string }) {
  const value = String((step as unknown as Record<string, unknown>)[field] ?? "");
  return (
    <Blank name={name} value={value} onChange={(text) => onChange({ [field]: text === "" ? null : Number(text) })} />
  );
}

/** Names with commas. */
function List({
  step,
  onChange,
  field,
  name,
  numbers = false,
}: Part & { field: string; name: string; numbers?: boolean }) {
  const value = ((step as unknown as Record<string, unknown>)[field] as (string | number)[]) ?? [];
  const read = (text: string) => {
    const parts = text.split(",").map((one) => one.trimStart());
    return numbers ? parts.filter((one) => one.trim() !== "").map(Number) : text === "" ? [] : parts;
  };
  return <Blank name={name} value={value.join(", ")} onChange={(text) => onChange({ [field]: read(text) })} />;
}

const HOW_WORDS = {
  sum: "added up",
  mean: "averaged",
  min: "the least",
  max: "the greatest",
  last: "the last",
  distinct: "counted how many",
};

/** How series that meet become one. */
function Meeting({ step, onChange }: Part) {
  if (!("gauges" in step) || step.type === "slow") return null;
  return (
    <span className="text-muted">
      {" "}
      (series that then are the same meet: counters and histograms add up, gauges are{" "}
      <Slot
        name="gauges that meet"
        options={options(LEVEL_HOWS, HOW_WORDS)}
        onChoose={(gauges) => onChange({ gauges })}
      >
        {HOW_WORDS[step.gauges]}
      </Slot>
      , every <Amount step={step} onChange={onChange} field="every" name="window in seconds" /> s)
    </span>
  );
}

function Folds({ step, onChange }: { step: Extract<StepConfig, { type: "fold" }>; onChange: Part["onChange"] }) {
  const toggle = (name: string) => {
    const known = step.folds as readonly string[];
    onChange({ folds: FOLDS.filter((one) => (one === name ? !known.includes(one) : known.includes(one))) });
  };
  const [first] = step.own;
  return (
    <>
      <Slot
        name="what is folded"
        options={FOLDS.map((value) => ({
          value,
          label: FOLD_WORDS[value],
          note: step.folds.includes(value) ? "✓ on" : "",
        }))}
        onChoose={toggle}
      >
        {step.folds.map((one) => FOLD_WORDS[one]).join(", ") || "nothing ready-made"}
      </Slot>{" "}
      and what{" "}
      <Blank
        name="own pattern"
        value={first?.pattern ?? ""}
        placeholder="own pattern"
        onChange={(pattern) => onChange({ own: pattern === "" ? [] : [{ pattern, to: first?.to ?? "{id}" }] })}
      />
      {first && (
        <>
          {" "}
          finds, as{" "}
          <Blank
            name="stands for the pattern"
            value={first.to}
            onChange={(to) => onChange({ own: [{ ...first, to }] })}
          />
        </>
      )}
    </>
  );
}

function Merge({ step, onChange }: { step: Extract<StepConfig, { type: "merge" }>; onChange: Part["onChange"] }) {
  return (
    <>
      merge series{" "}
      <Slot
        name="which attributes"
        options={options(["without", "by"], { without: "leaving out", by: "keeping only" })}
        onChoose={(mode) => onChange({ mode })}
      >
        {step.mode === "without" ? "leaving out" : "keeping only"}
      </Slot>{" "}
      <List step={step} onChange={onChange} field="attributes" name="attributes" />,{" "}
      <Slot name="how" options={options([...LEVEL_HOWS, "distinct"], HOW_WORDS)} onChoose={(how) => onChange({ how })}>
        {HOW_WORDS[step.how]}
      </Slot>{" "}
      every <Amount step={step} onChange={onChange} field="every" name="window in seconds" /> s, called{" "}
      <Blank
        name="name of what comes out"
        value={step.to}
        placeholder="as before"
        onChange={(to) => onChange({ to })}
      />
      ; the originals{" "}
      <Slot
        name="the originals"
        options={options(["go", "stay"], { go: "go no further", stay: "go on as well" })}
        onChoose={(value) => onChange({ originals: value === "stay" })}
      >
        {step.originals ? "go on as well" : "go no further"}
      </Slot>
    </>
  );
}

function does(part: Part): ReactNode {
  const { step, onChange } = part;
  const text = (field: string, name: string) => <Text {...part} field={field} name={name} />;
  switch (step.type) {
    case "keep":
      return "keep only these";
    case "drop":
      return "drop them";
    case "rename":
      return (
        <>
          call {text("from", "attribute")} {text("to", "new name")}
        </>
      );
    case "copy":
      return (
        <>
          copy {text("from", "attribute")} to {text("to", "second name")}
        </>
      );
    case "hash":
      return (
        <>
          hash <List {...part} field="attributes" name="attributes" />
        </>
      );
    case "set":
      return (
        <>
          set {text("attribute", "attribute")} to {text("value", "value")}
          <Meeting {...part} />
        </>
      );
    case "remove":
      return (
        <>
          remove <List {...part} field="attributes" name="attributes" />
          <Meeting {...part} />
        </>
      );
    case "redact":
      return (
        <>
          in <List {...part} field="attributes" name="attributes" /> redact what {text("pattern", "pattern")} finds
          <Meeting {...part} />
        </>
      );
    case "fold":
      return (
        <>
          fold in {text("attribute", "attribute")} <Folds step={step} onChange={onChange} />
          <Meeting {...part} />
        </>
      );
    case "metric":
      return <>call the metric {text("to", "new name of the metric")}</>;
    case "unit":
      return <>say values in {text("to", "unit")}</>;
    case "merge":
      return <Merge step={step} onChange={onChange} />;
    case "slow":
      return (
        <>
          one point every <Amount {...part} field="every" name="seconds" /> s, gauges{" "}
          <Slot
            name="gauges"
            options={options(LEVEL_HOWS.slice(1), HOW_WORDS)}
            onChoose={(gauges) => onChange({ gauges })}
          >
            {HOW_WORDS[step.gauges]}
          </Slot>
        </>
      );
    case "limit":
      return (
        <>
          at most <Amount {...part} field="series" name="series" /> series of a metric; further ones go to the overflow
          series
        </>
      );
    case "compute":
      return (
        <>
          work out {text("reading", "reading")} every <Amount {...part} field="every" name="window in seconds" /> s,
          called {text("to", "name of what comes out")}, in {text("unit", "unit of what comes out")}, to{" "}
          <Amount {...part} field="digits" name="significant digits" /> digits; what it is worked out from{" "}
          <Slot
            name="the originals"
            options={options(["go", "stay"], { go: "goes no further", stay: "goes on as well" })}
            onChoose={(value) => onChange({ originals: value === "stay" })}
          >
            {step.originals ? "goes on as well" : "goes no further"}
          </Slot>
        </>
      );
    case "coarsen":
      return (
        <>
          of explicit histograms keep the bounds <List {...part} field="bounds" name="bounds" numbers />; of exponential
          ones the scale <Amount {...part} field="scale" name="scale" />
        </>
      );
  }
}

export function StepSentence({ step, onChange }: Part) {
  return (
    <p className="text-[14.5px] leading-relaxed">
      where{" "}
      <Blank name="condition" value={step.where} placeholder="anything" onChange={(where) => onChange({ where })} />{" "}
      {does({ step, onChange })}
    </p>
  );
}
