import type { InstrumentAnswer } from "@/core/api/instruments";
import { instrumentOf } from "@/core/contract/checks/kind";
import { type ContractAttribute, type ContractBody, contractBody, type InstrumentKind } from "@/core/contract/contract";
import type { Kind } from "@/core/metric/model";

/** What is being written: numbers and lists as text, until they are understood. */
export interface Draft {
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

export const EMPTY: Draft = {
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

export function draftOf(body: ContractBody): Draft {
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
export function draftOfArrived(data: InstrumentAnswer): Draft {
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

export function bodyOf(draft: Draft) {
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
