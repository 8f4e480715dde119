import { JsonError } from "./jsonError";
import {
  ENUM_NAMES,
  type Field,
  isMessage,
  MAX_DEPTH,
  type MessageName,
  messageOf,
  type Plain,
  type PlainValue,
  type Scalar,
} from "./messages";

/**
 * Checks OTLP/JSON (OTLP specification, "JSON Protobuf Encoding"; proto3 JSON mapping) and puts it into one form: 64-bit
 * integers also as numbers, doubles also as "NaN" and "Infinity", enums as names or numbers, unknown fields passed over,
 * null the same as absent.
 */

type Path = readonly (string | number)[];

function wrong(path: Path, expected: string): never {
  throw new JsonError(`${path.join(".") || "the body"}: ${expected} is expected`);
}

/** What the integer types of protobuf hold. */
const RANGES: Partial<Record<Scalar, readonly [least: bigint, most: bigint]>> = {
  fixed64: [0n, 2n ** 64n - 1n],
  uint64: [0n, 2n ** 64n - 1n],
  sfixed64: [-(2n ** 63n), 2n ** 63n - 1n],
  int64: [-(2n ** 63n), 2n ** 63n - 1n],
  fixed32: [0n, 2n ** 32n - 1n],
  uint32: [0n, 2n ** 32n - 1n],
  sint32: [-(2n ** 31n), 2n ** 31n - 1n],
};

function whole(type: Scalar, value: unknown, path: Path): bigint {
  const given = typeof value === "string" && /^-?\d{1,20}$/.test(value) ? BigInt(value) : value;
  const number = typeof given === "number" && Number.isInteger(given) ? BigInt(given) : given;
  if (typeof number !== "bigint") return wrong(path, "a whole number");
  const [least, most] = RANGES[type] ?? [-(2n ** 31n), 2n ** 31n - 1n];
  return number >= least && number <= most ? number : wrong(path, `a whole number from ${least} to ${most}`);
}

function doubleOf(value: unknown, path: Path): number {
  if (typeof value === "number") return value;
  if (value === "NaN" || value === "Infinity" || value === "-Infinity") return Number(value);
  if (typeof value === "string" && /^-?\d+(\.\d+)?([eE][+-]?\d+)?$/.test(value)) return Number(value);
  return wrong(path, "a number");
}

/** Enums may be numbers or names; a name that is not known is the unspecified value. */
function enumOf(value: unknown, path: Path): number {
  if (typeof value === "string" && !/^\d+$/.test(value))
    return Object.hasOwn(ENUM_NAMES, value) ? ENUM_NAMES[value] : 0;
  return Number(whole("enum", value, path));
}

function scalarOf(type: Scalar, value: unknown, path: Path): PlainValue {
  switch (type) {
    case "string":
      return typeof value === "string" ? value : wrong(path, "text");
    case "bytes":
      return typeof value === "string" && /^[A-Za-z0-9+/_-]*={0,2}$/.test(value)
        ? value.replaceAll("-", "+").replaceAll("_", "/")
        : wrong(path, "base64");
    case "hex":
      return typeof value === "string" && /^([0-9a-fA-F]{2})*$/.test(value) ? value.toLowerCase() : wrong(path, "hex");
    case "bool":
      return typeof value === "boolean" ? value : wrong(path, "true or false");
    case "double":
      return doubleOf(value, path);
    case "enum":
      return enumOf(value, path);
    case "fixed64":
    case "sfixed64":
    case "int64":
    case "uint64":
      return String(whole(type, value, path));
    default:
      return Number(whole(type, value, path));
  }
}

function messageFrom(name: MessageName, value: unknown, path: Path): Plain {
  if (path.length > 2 * MAX_DEPTH) wrong(path, "less nesting");
  if (typeof value !== "object" || value === null || Array.isArray(value)) return wrong(path, "an object");
  const { byName } = messageOf(name);
  const found: Plain = {};
  const one = (type: Field["type"], held: unknown, at: Path): PlainValue =>
    isMessage(type) ? messageFrom(type, held, at) : scalarOf(type, held, at);
  for (const [key, held] of Object.entries(value)) {
    const field = byName.get(key);
    if (!field || held === null || held === undefined) continue;
    const at = [...path, key];
    if (!field.repeated) found[key] = one(field.type, held, at);
    else if (Array.isArray(held)) found[key] = held.map((each, i) => one(field.type, each, [...at, i]));
    else wrong(at, "a list");
  }
  return found;
}

/** @throws JsonError with the place of the first field that does not fit */
export function messageFromJson(name: MessageName, text: string): Plain {
  let body: unknown;
  try {
    body = JSON.parse(text);
  } catch (error) {
    throw new JsonError(`the body is not JSON: ${(error as Error).message}`);
  }
  return messageFrom(name, body, []);
}
