/**
 * The first part of a file that nothing was made of: misspelt, or from elsewhere. What a schema leaves out in silence would
 * otherwise be gone.
 *
 * @param read what was understood of it
 * @returns its place, such as `metrics.0.redakt`, or null
 */
export function unknownPart(content: unknown, read: unknown, path = ""): string | null {
  if (typeof content !== "object" || content === null || typeof read !== "object" || read === null) return null;
  for (const [key, value] of Object.entries(content)) {
    const at = path === "" ? key : `${path}.${key}`;
    if (!Object.hasOwn(read, key)) return at;
    const inner = unknownPart(value, (read as Record<string, unknown>)[key], at);
    if (inner !== null) return inner;
  }
  return null;
}

/** The first of some parts that a file lacks, or null. */
export function missingPart(content: unknown, wanted: readonly string[]): string | null {
  if (typeof content !== "object" || content === null || Array.isArray(content)) return wanted[0];
  return wanted.find((key) => !Object.hasOwn(content, key)) ?? null;
}
