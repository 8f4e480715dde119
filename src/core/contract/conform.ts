import { RE2JS } from "re2js";
import type { Kind, Temporality } from "../metric/model";
import { comparable, lenientUnit } from "../unit/unit";
import type { ContractBody, InstrumentKind } from "./contract";

/** Holding arrivals against a contract. Pure: what arrived comes in as facts, findings go out. */

/** What a finding is about; each has a sentence of its own in `detail`. */
export type FindingCode =
  | "kind"
  | "unit"
  | "missing-attribute"
  | "undeclared-attribute"
  | "value"
  | "too-many-values"
  | "temporality"
  | "negative"
  | "silent"
  | "vanished"
  | "mixed"
  | "two-writers";

/** Something that is not as agreed, and whose it is. "" stands for all. */
export interface Finding {
  code: FindingCode;
  subject: string;
  service: string;
  environment: string;
  release: string;
  instance: string;
  detail: string;
}

/** Series of one instance that look alike, as far as a contract can tell. */
export interface ArrivedSeries {
  service: string;
  environment: string;
  release: string;
  instance: string;
  kind: Kind;
  unit: string;
  temporality: Temporality;
  monotonic: boolean;
  attributes: Record<string, string>;
}

/** Values of an attribute told in one finding. */
const MAX_VALUES = 5;

/** The kind of instrument that a stream comes from. */
export function instrumentOf({
  kind,
  monotonic,
}: Pick<ArrivedSeries, "kind" | "monotonic">): InstrumentKind | "summary" {
  switch (kind) {
    case "sum":
      return monotonic ? "counter" : "up-down counter";
    case "exponential":
      return "exponential histogram";
    default:
      return kind;
  }
}

function unitFits(wanted: string, came: string): boolean {
  if (wanted === came) return true;
  const a = lenientUnit(wanted);
  const b = lenientUnit(came);
  return comparable(a, b) && a.scale === b.scale;
}

type Origin = Pick<Finding, "service" | "environment" | "release" | "instance">;

function originOf({ service, environment, release, instance }: Origin): Origin {
  return { service, environment, release, instance };
}

/** Collects findings, one per code, subject and instance. */
class Findings {
  private readonly found = new Map<string, Finding>();

  add(code: FindingCode, subject: string, origin: Origin, detail: string): void {
    const { service, environment, release, instance } = origin;
    const key = JSON.stringify([code, subject, service, environment, release, instance]);
    if (!this.found.has(key)) this.found.set(key, { code, subject, service, environment, release, instance, detail });
  }

  all(): Finding[] {
    return [...this.found.values()];
  }
}

function checkValues(contract: ContractBody, series: readonly ArrivedSeries[], findings: Findings): void {
  for (const { name, required, values, pattern, expected } of contract.attributes) {
    const allowed = new Set(values);
    const matches = pattern === "" ? null : RE2JS.compile(pattern);
    const wrong = new Map<string, { origin: Origin; values: Set<string> }>();
    const seen = new Set<string>();
    for (const one of series) {
      const value = one.attributes[name];
      if (value === undefined) {
        if (required) findings.add("missing-attribute", name, one, `${name} is missing, every point must have it`);
        continue;
      }
      seen.add(value);
      const fits = (allowed.size === 0 || allowed.has(value)) && (matches === null || matches.matches(value));
      if (fits) continue;
      const key = JSON.stringify(originOf(one));
      const place = wrong.get(key) ?? { origin: originOf(one), values: new Set<string>() };
      place.values.add(value);
      wrong.set(key, place);
    }
    for (const { origin, values: strange } of wrong.values()) {
      const told = [...strange].slice(0, MAX_VALUES).map((value) => JSON.stringify(value));
      const more = strange.size > MAX_VALUES ? ` and ${strange.size - MAX_VALUES} more` : "";
      findings.add("value", name, origin, `${name} is ${told.join(", ")}${more}, which the contract does not expect`);
    }
    if (expected !== null && seen.size > expected) {
      const [first] = series;
      const everywhere = { service: first.service, environment: "", release: "", instance: "" };
      findings.add("too-many-values", name, everywhere, `${name} has ${seen.size} values, ${expected} are expected`);
    }
  }
}

/**
 * Holds what arrives now of one metric against its contract.
 *
 * @param series of the instances that report now
 */
export function conform(contract: ContractBody, series: readonly ArrivedSeries[]): Finding[] {
  const findings = new Findings();
  const own = contract.service === "" ? series : series.filter(({ service }) => service === contract.service);
  if (own.length === 0) return [];
  const declared = new Set(contract.attributes.map(({ name }) => name));
  const temporalities = new Map<Temporality, ArrivedSeries>();
  for (const one of own) {
    const came = instrumentOf(one);
    if (contract.kind !== came)
      findings.add("kind", "", one, `it comes as a ${came}, the contract says ${contract.kind}`);
    if (!unitFits(contract.unit, one.unit))
      findings.add(
        "unit",
        "",
        one,
        `it comes in ${one.unit || "no unit"}, the contract says ${contract.unit || "none"}`,
      );
    for (const name of Object.keys(one.attributes))
      if (!declared.has(name) && name !== "otel.metric.overflow")
        findings.add("undeclared-attribute", name, one, `${name} is not in the contract`);
    if (one.temporality !== "none" && !temporalities.has(one.temporality)) temporalities.set(one.temporality, one);
  }
  if (temporalities.size > 1) {
    const counts = (wanted: Temporality) => own.filter(({ temporality }) => temporality === wanted);
    const [fewer] = [counts("delta"), counts("cumulative")].sort((a, b) => a.length - b.length);
    for (const one of fewer)
      findings.add(
        "temporality",
        "",
        one,
        `it comes as ${one.temporality}, from other instances as the other temporality`,
      );
  }
  checkValues(contract, own, findings);
  return findings.all();
}
