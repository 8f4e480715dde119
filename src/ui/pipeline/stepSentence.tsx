import type { ReactNode } from "react";
import { LEVEL_HOWS } from "@/core/pipeline/parts";
import { Blank } from "../sentence/blank";
import { Slot } from "../sentence/slot";
import { Amount, Choice, Either, Folds, List, options, type Part, Percent, Text } from "./stepParts";
import type { AnyStep } from "./words";

/** A step as a sentence; its slots change it in place. */

const HOW_WORDS = {
  sum: "added up",
  mean: "averaged",
  min: "the least",
  max: "the greatest",
  last: "the last",
  distinct: "counted how many",
};
const { distinct: _, ...LEVEL_WORDS } = HOW_WORDS;

interface StepPart {
  step: AnyStep;
  onChange: (part: object) => void;
}

/** How series that meet become one. */
function Meeting({ step, onChange }: StepPart) {
  if (!("gauges" in step) || step.type === "slow") return null;
  return (
    <span className="text-muted">
      {" "}
      (series that then are the same meet: counters and histograms add up, gauges are{" "}
      <Choice of={step} onChange={onChange} field="gauges" name="gauges that meet" words={LEVEL_WORDS} />, every{" "}
      <Amount of={step} onChange={onChange} field="every" name="window in seconds" /> s)
    </span>
  );
}

function does(step: AnyStep, onChange: StepPart["onChange"]): ReactNode {
  const part: Part = { of: step, onChange };
  const text = (field: string, name: string) => <Text {...part} field={field} name={name} />;
  const amount = (field: string, name: string, placeholder?: string) => (
    <Amount {...part} field={field} name={name} placeholder={placeholder} />
  );
  const list = (field: string, name: string, numbers = false) => (
    <List {...part} field={field} name={name} numbers={numbers} />
  );
  const originals = (stay: string, go: string) => (
    <Either {...part} field="originals" name="the originals" yes={stay} no={go} />
  );
  const meeting = <Meeting step={step} onChange={onChange} />;
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
      return <>hash {list("attributes", "attributes")}</>;
    case "set":
      return (
        <>
          set {text("attribute", "attribute")} to {text("value", "value")}
          {meeting}
        </>
      );
    case "remove":
      return (
        <>
          remove {list("attributes", "attributes")}
          {meeting}
        </>
      );
    case "redact":
      return (
        <>
          in {list("attributes", "attributes")} redact what {text("pattern", "pattern")} finds
          {meeting}
        </>
      );
    case "fold":
      return (
        <>
          fold in {text("attribute", "attribute")} <Folds {...part} />
          {meeting}
        </>
      );
    case "metric":
      return <>call the metric {text("to", "new name of the metric")}</>;
    case "unit":
      return <>say values in {text("to", "unit")}</>;
    case "merge":
      return (
        <>
          merge series{" "}
          <Choice
            {...part}
            field="mode"
            name="which attributes"
            words={{ without: "leaving out", by: "keeping only" }}
          />{" "}
          {list("attributes", "attributes")}, <Choice {...part} field="how" name="how" words={HOW_WORDS} /> every{" "}
          {amount("every", "window in seconds")} s, called{" "}
          <Text {...part} field="to" name="name of what comes out" placeholder="as before" />; the originals{" "}
          {originals("go on as well", "go no further")}
        </>
      );
    case "slow":
      return (
        <>
          one point every {amount("every", "seconds")} s, gauges{" "}
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
      return <>at most {amount("series", "series")} series of a metric; further ones go to the overflow series</>;
    case "coarsen":
      return (
        <>
          of explicit histograms keep the bounds {list("bounds", "bounds", true)}; of exponential ones the scale{" "}
          {amount("scale", "scale", "as it is")}
        </>
      );
    case "compute":
      return (
        <>
          work out {text("reading", "reading")} every {amount("every", "window in seconds")} s, called{" "}
          {text("to", "name of what comes out")}, in{" "}
          <Text {...part} field="unit" name="unit of what comes out" placeholder="its own unit" />, to{" "}
          {amount("digits", "significant digits", "all")} digits; what it is worked out from{" "}
          {originals("goes on as well", "goes no further")}
        </>
      );
    case "sample":
      return (
        <>
          keep <Percent {...part} field="share" name="share that is kept" />, of a trace all or nothing
        </>
      );
    case "tail":
      return (
        <>
          wait {amount("within", "seconds to wait")} s for each trace, then keep it{" "}
          <Either
            {...part}
            field="errors"
            name="traces with errors"
            yes="where a span failed,"
            no="whether it failed or not,"
          />{" "}
          where a span took longer than {amount("slower", "slower than", "any")} s, and{" "}
          <Percent {...part} field="share" name="share of the others" /> of the others
        </>
      );
    case "spans":
      return (
        <>
          count them into {text("to", "beginning of the metrics' names")}.count, .errors and .duration by{" "}
          {list("attributes", "attributes")}, with bounds {list("bounds", "bounds", true)} s, every{" "}
          {amount("every", "window in seconds")} s
        </>
      );
    case "records":
      return (
        <>
          <Choice
            {...part}
            field="what"
            name="what is made of them"
            words={{ count: "count them", sum: "add up their", histogram: "make a histogram of their" }}
          />{" "}
          {step.what !== "count" && text("field", "attribute with numbers")} into {text("to", "name of the metric")} in{" "}
          {text("unit", "unit")} by {list("attributes", "attributes")}
          {step.what === "histogram" && <>, with bounds {list("bounds", "bounds", true)}</>}, every{" "}
          {amount("every", "window in seconds")} s
        </>
      );
    case "parse":
      return (
        <>
          find attributes in {text("from", "where the text is")}, written as{" "}
          <Choice
            {...part}
            field="format"
            name="how it is written"
            words={{ logfmt: "key=value pairs", json: "JSON", pattern: "a pattern says" }}
          />
          {step.format === "pattern" && (
            <>
              : <Text {...part} field="pattern" name="pattern" placeholder="(?P<name>…)" />
            </>
          )}
          , their names beginning with <Text {...part} field="prefix" name="prefix" placeholder="nothing more" />
        </>
      );
  }
}

export function StepSentence({ step, onChange }: StepPart) {
  return (
    <p className="text-[14.5px] leading-relaxed">
      where{" "}
      <Blank name="condition" value={step.where} placeholder="anything" onChange={(where) => onChange({ where })} />{" "}
      {does(step, onChange)}
    </p>
  );
}
