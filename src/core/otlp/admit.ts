import type { Attributes, Scope } from "../metric/model";
import { environmentProblem, isStorable, LIMITS, resourceProblem, scopeProblem } from "./limits";
import type { Plain, PlainValue } from "./messages";
import { attributesOf, scopeFrom } from "./values";

/** What a request for spans or log records may say: times in Unix ms. */
export interface RecordAdmission {
  from: number;
  to: number;
  /** The environment that its sender's token is for; null: any. */
  environment: string | null;
}

export const ADMIT_ALL_RECORDS: RecordAdmission = {
  from: Number.NEGATIVE_INFINITY,
  to: Number.POSITIVE_INFINITY,
  environment: null,
};

/** The records of a request, with what was refused and why. */
export class Refused {
  count = 0;
  private readonly reasons = new Map<string, number>();

  add(reason: string, records = 1): void {
    this.count += records;
    if (this.reasons.has(reason) || this.reasons.size < LIMITS.reasons)
      this.reasons.set(reason, (this.reasons.get(reason) ?? 0) + records);
  }

  /** In words; "" where nothing was refused. */
  message(): string {
    return [...this.reasons]
      .map(([reason, records]) => `${reason} (${records} ${records === 1 ? "record" : "records"})`)
      .join("; ");
  }
}

export function plainList(value: PlainValue | undefined): Plain[] {
  return Array.isArray(value) ? (value as Plain[]) : [];
}

export interface Sender {
  resource: Attributes;
  scope: Scope;
  /** Why nothing of it is taken. */
  problem: string | null;
}

/**
 * Calls `visit` with every record of a request and who sent it.
 *
 * @param names of the fields: lists of resources, scopes and records
 */
export function eachRecord(
  request: Plain,
  names: { resources: string; scopes: string; records: string },
  environment: string | null,
  visit: (record: Plain, sender: Sender) => void,
): void {
  for (const own of plainList(request[names.resources])) {
    const resource = attributesOf((own.resource as Plain | undefined)?.attributes);
    const ofResource = resourceProblem(resource) ?? environmentProblem(resource, environment);
    for (const inner of plainList(own[names.scopes])) {
      const scope = scopeFrom(inner.scope as Plain | undefined);
      const problem = ofResource ?? scopeProblem(scope);
      for (const record of plainList(inner[names.records])) visit(record, { resource, scope, problem });
    }
  }
}

/** Why the time of a record is refused, or null. */
export function timeProblem(ms: number, { from, to }: RecordAdmission): string | null {
  if (ms < from) return `it lies before what is still kept (${new Date(Math.max(ms, 0)).toISOString()})`;
  if (ms > to)
    return `it lies in the future (${new Date(Math.min(ms, 8.64e15)).toISOString()}); check the sender's clock`;
  return null;
}

/** Why a text of a record is refused, or null. */
export function textProblem(what: string, text: string, most: number): string | null {
  if (text.length > most) return `${what} has ${text.length} characters, at most ${most} are taken`;
  return isStorable(text) ? null : `${what} has characters that are no text (NUL or a broken pair)`;
}
