import type { Attributes, AttributeValue } from "../metric/model";
import type { Plain, PlainValue } from "./messages";

/** Values, attributes and times between our model and the form of OTLP/JSON. */

function list(value: PlainValue | undefined): Plain[] {
  return Array.isArray(value) ? (value as Plain[]) : [];
}

/** An AnyValue as a plain value; bytes stay base64 text. */
export function plainValue(value: Plain | undefined): AttributeValue {
  if (!value) return "";
  const { stringValue, boolValue, intValue, doubleValue, bytesValue, arrayValue, kvlistValue } = value;
  if (stringValue !== undefined) return stringValue as string;
  if (boolValue !== undefined) return boolValue as boolean;
  if (intValue !== undefined) return Number(intValue);
  if (doubleValue !== undefined) return doubleValue as number;
  if (bytesValue !== undefined) return bytesValue as string;
  if (arrayValue !== undefined) return list((arrayValue as Plain).values).map(plainValue);
  if (kvlistValue !== undefined) return attributesOf((kvlistValue as Plain).values);
  return "";
}

/** A list of KeyValue as attributes; of a repeated key the last stays. */
export function attributesOf(pairs: PlainValue | undefined): Attributes {
  const found: Attributes = {};
  for (const { key, value } of list(pairs))
    Object.defineProperty(found, (key as string) ?? "", {
      value: plainValue(value as Plain | undefined),
      writable: true,
      enumerable: true,
      configurable: true,
    });
  return found;
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
  return Object.entries(attributes).map(([key, value]) => ({ key, value: anyValue(value) }));
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
