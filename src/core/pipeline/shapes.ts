import { RE2JS } from "re2js";
import type { Attributes, AttributeValue, SeriesIdentity } from "../metric/model";
import { valueText } from "../metric/text";
import { canonicalAttribute } from "../reading/tree";
import { folder } from "./fold";
import { shortHash } from "./hash";
import type { StepConfig } from "./metricSteps";
import type { RecordStep } from "./recordSteps";

/** What steps make of a series' attributes. An attribute is looked for on the points first, then on the resource. */

/** @returns the identity that a series becomes; the same object where nothing changes */
export type Shape = (identity: SeriesIdentity) => SeriesIdentity;

type Place = "attributes" | "resource";

function placeOf(identity: SeriesIdentity, name: string): Place | null {
  if (Object.hasOwn(identity.attributes, name)) return "attributes";
  return Object.hasOwn(identity.resource, name) ? "resource" : null;
}

function withValue(identity: SeriesIdentity, place: Place, name: string, value: AttributeValue): SeriesIdentity {
  return { ...identity, [place]: { ...identity[place], [name]: value } };
}

function without(identity: SeriesIdentity, place: Place, name: string): SeriesIdentity {
  const { [name]: _, ...rest } = identity[place] as Attributes;
  return { ...identity, [place]: rest };
}

/** Changes the values of attributes, each by itself. */
function changing(names: readonly string[], change: (value: string) => string): Shape {
  const wanted = names.map(canonicalAttribute);
  return (identity) =>
    wanted.reduce((now, name) => {
      const place = placeOf(now, name);
      if (!place) return now;
      const before = valueText(now[place][name]);
      const after = change(before);
      return after === before ? now : withValue(now, place, name, after);
    }, identity);
}

function removing(names: readonly string[]): Shape {
  const wanted = names.map(canonicalAttribute);
  return (identity) =>
    wanted.reduce((now, name) => {
      const place = placeOf(now, name);
      return place ? without(now, place, name) : now;
    }, identity);
}

/** Leaves only some attributes, of the points and of the resource. */
function keeping(names: readonly string[]): Shape {
  const wanted = new Set(names.map(canonicalAttribute));
  const some = (all: Attributes) => Object.fromEntries(Object.entries(all).filter(([name]) => wanted.has(name)));
  return ({ resource, scope, attributes }) => ({ resource: some(resource), scope, attributes: some(attributes) });
}

/** What a step makes of attributes; null where it leaves them alone. */
export function shapeOf(step: StepConfig | RecordStep): Shape | null {
  switch (step.type) {
    case "rename":
    case "copy": {
      const [from, to] = [canonicalAttribute(step.from), canonicalAttribute(step.to)];
      return (identity) => {
        const place = placeOf(identity, from);
        if (!place || from === to) return identity;
        const copied = withValue(identity, place, to, identity[place][from]);
        return step.type === "copy" ? copied : without(copied, place, from);
      };
    }
    case "hash":
      return changing(step.attributes, shortHash);
    case "set": {
      const name = canonicalAttribute(step.attribute);
      return (identity) => {
        const place = placeOf(identity, name) ?? "attributes";
        const held = identity[place][name];
        return held !== undefined && valueText(held) === step.value
          ? identity
          : withValue(identity, place, name, step.value);
      };
    }
    case "remove":
      return removing(step.attributes);
    case "redact": {
      const pattern = RE2JS.compile(step.pattern);
      return changing(step.attributes, (value) => pattern.matcher(value).replaceAll("***"));
    }
    case "fold":
      return changing([step.attribute], folder(step));
    case "merge":
      return step.mode === "without" ? removing(step.attributes) : keeping(step.attributes);
    default:
      return null;
  }
}
