import { RE2JS } from "re2js";

/**
 * Patterns that people write, in RE2 syntax on an engine whose time is linear in the text times the size of the compiled
 * pattern. The size is limited, because linear time is still long where each character costs thousands of instructions.
 */

/** Instructions of a compiled pattern: an address of a mail takes about 30, a UUID about 40. */
const MAX_INSTRUCTIONS = 500;
/** Characters of a pattern times what its repeats ask for; bounds what compiling may take. */
const MAX_EXPANSION = 5_000;

/** A pattern that cannot be used; the message says why. */
export class PatternError extends Error {
  override name = "PatternError";
}

const tooLarge = (size: string) =>
  new PatternError(`it is too large (${size}, at most ${MAX_INSTRUCTIONS} steps): repeat fewer times`);

/** The sum of the largest counts of `{n}`, `{n,}` and `{n,m}`. */
function repeatsIn(text: string): number {
  let repeats = 1;
  for (const [, least, most] of text.matchAll(/\{(\d+)(?:,(\d*))?\}/g)) repeats += Number(most || least);
  return repeats;
}

/** Compiles a pattern. @param flags those of the engine @throws PatternError */
export function compilePattern(text: string, flags = 0): RE2JS {
  const expansion = text.length * repeatsIn(text);
  if (expansion > MAX_EXPANSION) throw tooLarge(`${text.length} characters with long repeats`);
  let compiled: RE2JS;
  try {
    compiled = RE2JS.compile(text, flags);
  } catch (error) {
    throw new PatternError((error as Error).message);
  }
  const size = compiled.programSize();
  if (size > MAX_INSTRUCTIONS) throw tooLarge(`${size} steps`);
  return compiled;
}

/** Why a pattern cannot be used; null where it can. */
export function patternProblem(text: string): string | null {
  try {
    compilePattern(text);
    return null;
  } catch (error) {
    return (error as Error).message;
  }
}
