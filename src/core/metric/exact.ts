import type { Attributes } from "./model";

/**
 * What plain values cannot say of attributes as they came: that a whole number is a double, that a text is an integer
 * too large for a number. Two series that differ in nothing else are two series (OpenTelemetry, "Attribute": a value has
 * a type), so it is a part of what tells them apart. It goes along where attributes are copied by spreading.
 */

const EXACT = Symbol("exact");

type Marked = Attributes & { [EXACT]?: Readonly<Record<string, string>> };

/** The notes of attributes by name, a letter a value (d: a double, i: an integer), or undefined where plain values say all. */
export function exactOf(attributes: Attributes): Readonly<Record<string, string>> | undefined {
  return (attributes as Marked)[EXACT];
}

/** Notes the types of an attribute's values that plain values do not say; an empty text takes the note away. */
export function noteExact(attributes: Attributes, name: string, types: string): void {
  const known = exactOf(attributes);
  if (types === "" && (!known || !Object.hasOwn(known, name))) return;
  const notes = Object.fromEntries(Object.entries(known ?? {}).filter(([key]) => key !== name));
  if (types !== "") Object.defineProperty(notes, name, { value: types, enumerable: true });
  (attributes as Marked)[EXACT] = notes;
}

/** The notes as a text that is equal for equal ones; "" where there are none. */
export function exactText(attributes: Attributes): string {
  const notes = Object.entries(exactOf(attributes) ?? {}).filter(([name]) => Object.hasOwn(attributes, name));
  if (notes.length === 0) return "";
  return JSON.stringify(notes.sort(([a], [b]) => (a < b ? -1 : 1)));
}

/** Attributes with the notes of an {@link exactText}. */
export function withExact(attributes: Attributes, text: string | undefined): Attributes {
  if (text) for (const [name, types] of JSON.parse(text) as [string, string][]) noteExact(attributes, name, types);
  return attributes;
}

/** A double as a plain value, noted where a number of JSON would not say that it is one. */
export function plainDouble(value: number, odd: string[]): number | string {
  if (!Number.isFinite(value)) {
    odd.push("d");
    return String(value);
  }
  if (Number.isInteger(value)) odd.push("d");
  return value;
}

/** An integer as a plain value: a text, noted, where it is too large for a number. */
export function plainInteger(value: bigint, odd: string[]): number | string {
  const number = Number(value);
  if (Number.isSafeInteger(number)) return number;
  odd.push("i");
  return String(value);
}
