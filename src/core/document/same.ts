/** A value of JSON with its fields in one order. */
function ordered(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(ordered);
  if (typeof value !== "object" || value === null) return value;
  const entries = Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1));
  return Object.fromEntries(entries.map(([key, inner]) => [key, ordered(inner)]));
}

/** Whether two values of JSON say the same, whatever the order of their fields. */
export function same(a: unknown, b: unknown): boolean {
  return a === b || JSON.stringify(ordered(a)) === JSON.stringify(ordered(b));
}
