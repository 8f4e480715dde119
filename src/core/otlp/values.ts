import { exactOf, exactText, noteExact, plainDouble, plainInteger } from "../metric/exact";
import type { Attributes, AttributeValue, Scope } from "../metric/model";
import type { Plain, PlainValue } from "./messages";

/** Values, attributes and times between our model and the form of OTLP/JSON. */

function list(value: PlainValue | undefined): Plain[] {
  return Array.isArray(value) ? (value as Plain[]) : [];
}

/** An AnyValue as a plain value; bytes stay base64 text. */
export function plainValue(value: Plain | undefined, odd: string[] = []): AttributeValue {
  if (!value) return "";
  const { stringValue, boolValue, intValue, doubleValue, bytesValue, arrayValue, kvlistValue } = value;
  if (stringValue !== undefined) return stringValue as string;
  if (boolValue !== undefined) return boolValue as boolean;
  if (intValue !== undefined) return plainInteger(BigInt(intValue as string), odd);
  if (doubleValue !== undefined) return plainDouble(Number(doubleValue), odd);
  if (bytesValue !== undefined) return bytesValue as string;
  if (arrayValue !== undefined) return list((arrayValue as Plain).values).map((one) => plainValue(one, odd));
  if (kvlistValue !== undefined) return attributesOf((kvlistValue as Plain).values, odd);
  return "";
}

/** A list of KeyValue as attributes; of a repeated key the last stays. */
export function attributesOf(pairs: PlainValue | undefined, outer?: string[]): Attributes {
  const found: Attributes = {};
  for (const { key: name, value: held } of list(pairs)) {
    const key = (name as string) ?? "";
    const odd: string[] = outer ?? [];
    const value = plainValue(held as Plain | undefined, odd);
    Object.defineProperty(found, key, { value, writable: true, enumerable: true, configurable: true });
    // Of what is nested, the outermost attribute bears the note.
    if (!outer) noteExact(found, key, odd.join(""));
  }
  return found;
}

/** A scope as it stands in a message. */
export function scopeFrom(scope: { name?: string; version?: string; attributes?: PlainValue } = {}): Scope {
  const attributes = attributesOf(scope.attributes);
  const named = { name: scope.name ?? "", version: scope.version ?? "" };
  return Object.keys(attributes).length > 0 ? { ...named, attributes } : named;
}

/** A scope as it stands in a message; what it has not is left out. */
export function scopeMessage({ name, version, attributes = {} }: Scope): Plain {
  const own = keyValues(attributes);
  return { ...(name && { name }), ...(version && { version }), ...(own.length > 0 && { attributes: own }) };
}

/** A text that is equal for scopes of equal attributes. */
export function scopeText({ attributes = {} }: Scope): string {
  const entries = Object.entries(attributes);
  if (entries.length === 0) return "";
  return JSON.stringify(entries.sort(([a], [b]) => (a < b ? -1 : 1))) + exactText(attributes);
}

/** A double as JSON can hold it. */
export function doubleText(value: number): number | string {
  if (Number.isFinite(value)) return Object.is(value, -0) ? "-0" : value;
  return Number.isNaN(value) ? "NaN" : value > 0 ? "Infinity" : "-Infinity";
}

export function anyValue(value: AttributeValue): Plain {
  if (typeof value === "string") return { stringValue: value };
  if (typeof value === "boolean") return { boolValue: value };
  if (typeof value === "number")
    return Number.isSafeInteger(value) && !Object.is(value, -0)
      ? { intValue: String(value) }
      : { doubleValue: doubleText(value) };
  if (Array.isArray(value)) return { arrayValue: { values: value.map(anyValue) } };
  return { kvlistValue: { values: keyValues(value) } };
}

/** Attributes as a list of KeyValue. */
export function keyValues(attributes: Attributes): Plain[] {
  const exact = exactOf(attributes) ?? {};
  return Object.entries(attributes).map(([key, value]) => ({
    key,
    value: Object.hasOwn(exact, key) ? exactValue(value, exact[key]) : anyValue(value),
  }));
}

function exactValue(value: AttributeValue, types: string): Plain {
  if (types === "i" && typeof value === "string") return { intValue: value };
  if (types === "d" && typeof value !== "object") return { doubleValue: doubleText(Number(value)) };
  return anyValue(value);
}

/** Nanoseconds as text, split into milliseconds and the rest without loss. */
export function instantOf(nanos: PlainValue | undefined): { ms: number; ns: number } {
  if (nanos === undefined) return { ms: 0, ns: 0 };
  const whole = BigInt(nanos as string);
  if (whole < 0n) return { ms: 0, ns: 0 };
  return { ms: Number(whole / 1_000_000n), ns: Number(whole % 1_000_000n) };
}

/** Milliseconds and nanoseconds as nanoseconds in text, without loss. */
export function nanosText(ms: number, ns: number): string {
  return ms > 0 ? `${ms}${String(ns).padStart(6, "0")}` : String(ns);
}
