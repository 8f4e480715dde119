import type { Attributes, Scope } from "../metric/model";
import type { Plain } from "./messages";
import { keyValues, scopeMessage, scopeText } from "./values";

/** Puts records together that have a resource and a scope in common, as OTLP nests them. */
export function bySender<T extends { resource: Attributes; scope: Scope }>(
  records: readonly T[],
  names: { scopes: string; records: string },
  write: (record: T) => Plain,
): Plain[] {
  const found = new Map<string, { resource: Attributes; scopes: Map<string, { scope: Scope; records: Plain[] }> }>();
  const keys = new Map<Attributes, string>();
  for (const record of records) {
    const { resource, scope } = record;
    const key = keys.get(resource) ?? JSON.stringify(resource);
    keys.set(resource, key);
    const own = found.get(key) ?? { resource, scopes: new Map() };
    found.set(key, own);
    const inner = `${scope.name}\u0001${scope.version}\u0001${scopeText(scope)}`;
    const some = own.scopes.get(inner) ?? { scope, records: [] };
    own.scopes.set(inner, some);
    some.records.push(write(record));
  }
  return [...found.values()].map(({ resource, scopes }) => ({
    resource: { attributes: keyValues(resource) },
    [names.scopes]: [...scopes.values()].map(({ scope, records: some }) => ({
      scope: scopeMessage(scope),
      [names.records]: some,
    })),
  }));
}

/** Leaves out what is empty or nought. */
export function filled(fields: Plain): Plain {
  return Object.fromEntries(
    Object.entries(fields).filter(
      ([, value]) => value !== "" && value !== 0 && !(Array.isArray(value) && value.length === 0),
    ),
  );
}
