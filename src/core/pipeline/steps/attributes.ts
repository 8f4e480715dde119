import type { Attributes, AttributeValue, SeriesIdentity } from "../../metric/model";
import { valueText } from "../../metric/text";
import { canonicalAttribute } from "../../reading/language/tree";

/** What steps make of attributes. An attribute is looked for on the points first, then on the resource. */

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
export function changing(names: readonly string[], change: (value: string) => string): Shape {
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

export function removing(names: readonly string[]): Shape {
  const wanted = names.map(canonicalAttribute);
  return (identity) =>
    wanted.reduce((now, name) => {
      const place = placeOf(now, name);
      return place ? without(now, place, name) : now;
    }, identity);
}

/** Leaves only some attributes, of the points and of the resource. */
export function keeping(names: readonly string[]): Shape {
  const wanted = new Set(names.map(canonicalAttribute));
  const some = (all: Attributes) => Object.fromEntries(Object.entries(all).filter(([name]) => wanted.has(name)));
  return ({ resource, scope, attributes }) => ({ resource: some(resource), scope, attributes: some(attributes) });
}

/** Gives the value of an attribute to another, where there is one. @param stays whether the first one stays */
export function passingOn(from: string, to: string, stays: boolean): Shape {
  const [source, target] = [canonicalAttribute(from), canonicalAttribute(to)];
  return (identity) => {
    const place = placeOf(identity, source);
    if (!place || source === target) return identity;
    const copied = withValue(identity, place, target, identity[place][source]);
    return stays ? copied : without(copied, place, source);
  };
}

/** Gives an attribute one value, whether it was there or not. */
export function setting(attribute: string, value: string): Shape {
  const name = canonicalAttribute(attribute);
  return (identity) => {
    const place = placeOf(identity, name) ?? "attributes";
    const held = identity[place][name];
    return held !== undefined && valueText(held) === value ? identity : withValue(identity, place, name, value);
  };
}
