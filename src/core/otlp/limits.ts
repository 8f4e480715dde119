import type { Attributes, AttributeValue, Scope } from "../metric/model";
import { originOf } from "../metric/origin";
import { MAX_WIDTH } from "../metric/pointLimits";
import { ownText } from "../metric/text";
import { HOUR } from "../window/lengths";

/** What one request may hold. Past a limit, a point is rejected with a reason; nothing is cut short in silence. */
export const LIMITS = {
  /** Bytes of a request after inflation. */
  body: 16 * 1024 * 1024,
  /** Bytes of a message over gRPC; what its libraries take where nothing else is set. */
  grpcBody: 4 * 1024 * 1024,
  attributes: 128,
  keyLength: 256,
  valueLength: 4096,
  nameLength: 255,
  buckets: MAX_WIDTH,
  /** How far ahead of our clock a point's time may lie, ms. */
  ahead: 24 * HOUR,
  exemplarsPerPoint: 16,
  /** Of units, and of names and versions of scopes. */
  shortText: 255,
  description: 1024,
  /** Of what names a sender: service, release, environment, instance; they stand in indexes together. */
  originLength: 200,
  originBytes: 600,
  /** Distinct reasons told in one partial success. */
  reasons: 10,
};

/** Text that a database can keep: no NUL and no half of a surrogate pair. */
export function isStorable(text: string): boolean {
  return !text.includes("\u0000") && text.isWellFormed();
}

export function isStorableValue(value: AttributeValue): boolean {
  if (typeof value === "string") return isStorable(value);
  if (typeof value !== "object" || value === null) return true;
  return Object.entries(value).every(([key, inner]) => isStorable(key) && isStorableValue(inner));
}

function valueLength(value: AttributeValue): number {
  return typeof value === "string" ? value.length : typeof value === "object" ? JSON.stringify(value).length : 0;
}

/** Why an attribute set is refused, or null where it is fine. */
export function attributesProblem(attributes: Attributes): string | null {
  const keys = Object.keys(attributes);
  if (keys.length > LIMITS.attributes) return `${keys.length} attributes, at most ${LIMITS.attributes} are taken`;
  for (const key of keys) {
    if (key === "") return "an attribute has no name";
    if (key.length > LIMITS.keyLength) return `attribute name of ${key.length} characters, at most ${LIMITS.keyLength}`;
    const value = attributes[key];
    if (!isStorable(key) || !isStorableValue(value))
      return `attribute ${JSON.stringify(key)} has characters that are no text (NUL or a broken pair)`;
    const length = valueLength(value);
    if (length > LIMITS.valueLength)
      return `value of attribute ${key} has ${length} characters, at most ${LIMITS.valueLength} are taken`;
  }
  return null;
}

/**
 * Why a metric's name is refused, or null. The standard's own syntax (OpenTelemetry metrics API, "Instrument name
 * syntax") is narrower; names from elsewhere are taken as long as they are printable.
 */
export function nameProblem(name: string): string | null {
  if (name === "") return "a metric has no name";
  if (!isStorable(name)) return "the name has characters that are no text";
  if (name.length > LIMITS.nameLength) return `name of ${name.length} characters, at most ${LIMITS.nameLength}`;
  // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what is refused
  if (/[\u0000-\u001f\u007f]/.test(name)) return "the name has control characters";
  return null;
}

/** Why a unit is refused, or null. */
export function unitProblem(unit: string): string | null {
  if (!isStorable(unit)) return "the unit has characters that are no text (NUL or a broken pair)";
  return unit.length > LIMITS.shortText ? `unit of ${unit.length} characters, at most ${LIMITS.shortText}` : null;
}

/** A description as it can be kept: what is no text left out, what is too long cut. It is no part of what tells metrics apart. */
export function keptDescription(description: string): string {
  const short =
    description.length > LIMITS.description ? ownText(description.slice(0, LIMITS.description)) : description;
  return isStorable(short) ? short : short.toWellFormed().replaceAll("\u0000", "\ufffd");
}

/** Why a scope is refused, or null. */
export function scopeProblem({ name, version, attributes = {} }: Scope): string | null {
  for (const [what, text] of [
    ["name", name],
    ["version", version],
  ]) {
    if (!isStorable(text)) return `the ${what} of its scope has characters that are no text (NUL or a broken pair)`;
    if (text.length > LIMITS.shortText)
      return `the ${what} of its scope has ${text.length} characters, at most ${LIMITS.shortText} are taken`;
  }
  const problem = attributesProblem(attributes);
  return problem && `of its scope: ${problem}`;
}

/** Why a resource is refused, or null. */
export function resourceProblem(resource: Attributes): string | null {
  const problem = attributesProblem(resource);
  if (problem) return problem;
  for (const [what, text] of Object.entries(originOf(resource))) {
    const tooLong = text.length > LIMITS.originLength || new TextEncoder().encode(text).length > LIMITS.originBytes;
    if (tooLong)
      return `the ${what} that its resource names has ${text.length} characters, at most ${LIMITS.originLength} are taken`;
  }
  return null;
}

const ENVIRONMENT = "deployment.environment.name";

/**
 * Puts the environment of a sender's token into a resource that names none.
 *
 * @returns why the resource is refused, or null
 */
export function environmentProblem(resource: Attributes, environment: string | null): string | null {
  if (environment === null) return null;
  const named = resource[ENVIRONMENT] ?? resource["deployment.environment"];
  if (named === undefined || named === "") resource[ENVIRONMENT] = environment;
  else if (named !== environment)
    return `the key is for the environment ${environment}, the resource names ${String(named)}`;
  return null;
}
