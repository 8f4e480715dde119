import { isOriginAttribute, levelOf } from "../../metric/labels";
import type { Attributes, AttributeValue, SeriesIdentity } from "../../metric/model";
import { valueText } from "../../metric/text";
import { canonicalAttribute } from "../../reading/language/tree";

/** What steps make of attributes. `levelOf` says where an attribute is found. */

/** @returns the identity that a series becomes; the same object where nothing changes */
export type Shape = (identity: SeriesIdentity) => SeriesIdentity;

type Place = "attributes" | "resource";
/** What is changed or removed is so on both levels: else the other one would show. */
const LEVELS: readonly Place[] = ["attributes", "resource"];

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
    wanted.reduce(
      (now, name) =>
        LEVELS.reduce((inner, level) => {
          if (!Object.hasOwn(inner[level], name)) return inner;
          const before = valueText(inner[level][name]);
          const after = change(before);
          return after === before ? inner : withValue(inner, level, name, after);
        }, now),
      identity,
    );
}

export function removing(names: readonly string[]): Shape {
  const wanted = names.map(canonicalAttribute);
  return (identity) =>
    wanted.reduce(
      (now, name) =>
        LEVELS.reduce((inner, level) => (Object.hasOwn(inner[level], name) ? without(inner, level, name) : inner), now),
      identity,
    );
}

/** Leaves only some attributes, of the points and of the resource. */
export function keeping(names: readonly string[]): Shape {
  const wanted = new Set(names.map(canonicalAttribute));
  const some = (all: Attributes) => Object.fromEntries(Object.entries(all).filter(([name]) => wanted.has(name)));
  return ({ resource, scope, attributes }) => ({ resource: some(resource), scope, attributes: some(attributes) });
}

/**
 * Gives the value of an attribute to another, where there is one. Who reports is named by the resource, and there a
 * point's value only fills what is missing.
 *
 * @param stays whether the first one stays
 */
export function passingOn(from: string, to: string, stays: boolean): Shape {
  const [source, target] = [canonicalAttribute(from), canonicalAttribute(to)];
  return (identity) => {
    const place = levelOf(identity, source);
    if (!place || source === target) return identity;
    const value = identity[place][source];
    const copied = !isOriginAttribute(target)
      ? withValue(identity, place, target, value)
      : place === "attributes" && Object.hasOwn(identity.resource, target)
        ? identity
        : withValue(identity, "resource", target, value);
    return stays ? copied : without(copied, place, source);
  };
}

/** Gives an attribute one value, whether it was there or not. */
export function setting(attribute: string, value: string): Shape {
  const name = canonicalAttribute(attribute);
  return (identity) => {
    const place = isOriginAttribute(name) ? "resource" : (levelOf(identity, name) ?? "attributes");
    const held = identity[place][name];
    return held !== undefined && valueText(held) === value ? identity : withValue(identity, place, name, value);
  };
}
