import fc from "fast-check";

/** Values that a JSON Schema describes (those parts of 2020-12 that our schemas use), for property tests. */

export type Json = { [key: string]: unknown };

function texts({
  minLength = 0,
  maxLength = 40,
  pattern,
}: {
  minLength?: number;
  maxLength?: number;
  pattern?: string;
}) {
  if (pattern) return fc.stringMatching(new RegExp(pattern));
  return fc.string({ minLength, maxLength: Math.max(minLength, Math.min(maxLength, 40)), unit: "binary" });
}

function numbers({ minimum, maximum, exclusiveMinimum, type }: Json): fc.Arbitrary<number> {
  const min = Number(minimum ?? exclusiveMinimum ?? -1e6);
  const max = Math.max(min, Math.min(Number(maximum ?? 1e6), 1e12));
  return type === "integer"
    ? fc.integer({ min: Math.ceil(Math.max(min, -2e9)), max: Math.floor(Math.min(max, 2e9)) })
    : fc.double({ min, max, minExcluded: exclusiveMinimum !== undefined, noNaN: true });
}

/** Values of a schema. Where it says nothing: anything that JSON can say. */
export function valuesOf(schema: Json): fc.Arbitrary<unknown> {
  const options = (schema.anyOf ?? schema.oneOf) as Json[] | undefined;
  if (options) return fc.oneof(...options.map(valuesOf));
  if (Array.isArray(schema.type)) return fc.oneof(...schema.type.map((type) => valuesOf({ ...schema, type })));
  if (schema.const !== undefined) return fc.constant(schema.const);
  if (schema.enum) return fc.constantFrom(...(schema.enum as unknown[]));
  switch (schema.type) {
    case "string":
      return texts(schema);
    case "number":
    case "integer":
      return numbers(schema);
    case "boolean":
      return fc.boolean();
    case "null":
      return fc.constant(null);
    case "array":
      return fc.array(valuesOf((schema.items ?? {}) as Json), {
        minLength: Math.min(Number(schema.minItems ?? 0), 3),
        maxLength: Math.min(Number(schema.maxItems ?? 3), 3),
      });
    case "object":
      return objectsOf(schema);
    default:
      return fc.jsonValue({ maxDepth: 2 });
  }
}

function objectsOf({ properties = {}, required = [], additionalProperties }: Json): fc.Arbitrary<unknown> {
  const known = Object.entries(properties as Record<string, Json>);
  const fixed = fc.record(Object.fromEntries(known.map(([name, one]) => [name, valuesOf(one)])), {
    requiredKeys: required as never[],
  });
  if (typeof additionalProperties !== "object" || known.length > 0) return fixed;
  return fc.dictionary(fc.string({ maxLength: 12 }), valuesOf(additionalProperties as Json), { maxKeys: 3 });
}

/** A value that is wrong somewhere: a part is left out, is of another kind, or all of it is something else. */
export function brokenOf(good: fc.Arbitrary<unknown>): fc.Arbitrary<unknown> {
  const odd = fc.oneof(
    fc.constantFrom<unknown>(null, "", "\u0000", "\ud800", -1, 1e308, [], {}, "constructor", "__proto__", [[[]]]),
    fc.jsonValue({ maxDepth: 1 }),
  );
  return fc.tuple(good, odd, fc.nat(), fc.nat(3)).map(([value, other, place, how]) => {
    if (typeof value !== "object" || value === null || how === 0) return other;
    const copy: Json = structuredClone(value) as Json;
    const keys = Object.keys(copy);
    if (keys.length === 0) return other;
    const key = keys[place % keys.length];
    if (how === 1) delete copy[key];
    else copy[key] = other;
    return copy;
  });
}
