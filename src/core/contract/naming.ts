import { parseUnit } from "../unit/unit";
import type { ContractBody } from "./contract";

/**
 * What the naming rules of OpenTelemetry say about an instrument (semantic conventions, "Metrics semantic conventions:
 * general guidelines" and "Naming"; metrics API, "Instrument name syntax" and "Instrument unit").
 */
export interface Remark {
  /** `wrong` breaks a rule, `better` goes against advice. */
  weight: "wrong" | "better";
  about: "name" | "unit" | "kind" | "attribute";
  text: string;
}

/** Unit words that do not belong into a name: the unit field says it. */
const UNIT_WORDS = /[._](seconds|milliseconds|ms|microseconds|nanoseconds|bytes|kilobytes|megabytes|percent)$/;
const BASE_UNITS: Record<string, string> = {
  ms: "s",
  us: "s",
  ns: "s",
  min: "s",
  h: "s",
  kBy: "By",
  MBy: "By",
  GBy: "By",
};

function nameRemarks({ name, kind }: ContractBody): Remark[] {
  const remarks: Remark[] = [];
  const add = (weight: Remark["weight"], text: string) => remarks.push({ weight, about: "name", text });
  if (!/^[A-Za-z][A-Za-z0-9_./-]{0,254}$/.test(name))
    add("wrong", "begins with a letter, then letters, digits and _ . - / only, at most 255 of them");
  if (/[A-Z]/.test(name)) add("better", "lower case is usual: loan.extended rather than loanExtended");
  if (name !== "" && !name.includes("."))
    add("better", "a namespace in front keeps it apart from others: loan.extended");
  if (/[._/-]{2}|[._/-]$/.test(name)) add("better", "a separator stands alone, between two words");
  if (name.endsWith("_total") || name.endsWith(".total"))
    add("better", "leave out total: what a counter is, its kind says");
  if (/[._]count$/.test(name) && kind === "counter")
    add("better", "a plural or a participle says what is counted: loan.extended rather than loan.extend.count");
  const unit = UNIT_WORDS.exec(name);
  if (unit) add("better", `leave out ${unit[1]}: the unit says it, and may change`);
  if (kind === "histogram" && /[._](histogram|bucket|sum)$/.test(name))
    add("better", "the kind does not belong into the name");
  return remarks;
}

function unitRemarks({ unit, kind, name }: ContractBody): Remark[] {
  const remarks: Remark[] = [];
  const add = (weight: Remark["weight"], text: string) => remarks.push({ weight, about: "unit", text });
  try {
    parseUnit(unit);
  } catch (error) {
    add("wrong", (error as Error).message);
    return remarks;
  }
  if (unit.length > 63) add("wrong", "a unit has at most 63 characters");
  const base = BASE_UNITS[unit];
  if (base) add("better", `${base} without prefix is the rule: it is shown as a person reads it anyway`);
  if (unit === "" && kind === "counter") add("better", "say what is counted, as an annotation: {loan}");
  if (unit === "1" && (kind === "counter" || kind === "up-down counter"))
    add("better", "1 is for shares; what is counted stands in braces: {loan}");
  const plural = /^\{(\w+[^s])s\}$/.exec(unit);
  if (plural) add("better", `the singular is the rule: {${plural[1]}}`);
  if (/[._]duration$/.test(name) && unit !== "s" && !base) add("better", "a duration is in s");
  return remarks;
}

function attributeRemarks({ attributes }: ContractBody): Remark[] {
  return attributes.flatMap(({ name, values, expected }): Remark[] => {
    const remarks: Remark[] = [];
    const add = (text: string) => remarks.push({ weight: "better", about: "attribute", text: `${name}: ${text}` });
    if (/[A-Z ]/.test(name)) add("lower case without blanks is the rule");
    if (name.startsWith("otel.")) add("names that begin with otel. are kept for the standard");
    if (expected === null && values.length === 0)
      add("say how many values are expected, else the forecast cannot count it");
    if ((expected ?? values.length) > 1000)
      add("so many values make as many series: does every one of them need a line of its own? An exemplar may do");
    return remarks;
  });
}

/** All that the rules have to say, rules before advice. */
export function remarksOn(body: ContractBody): Remark[] {
  const all = [...nameRemarks(body), ...unitRemarks(body), ...attributeRemarks(body)];
  return all.sort((a, b) => (a.weight === b.weight ? 0 : a.weight === "wrong" ? -1 : 1));
}
