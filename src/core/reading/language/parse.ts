import { RE2JS } from "re2js";
import { conditionStructure, readingStructure } from "./grammar";
import type { Condition, ReadingTree } from "./tree";

function patternFault(pattern: string): string | null {
  try {
    RE2JS.compile(pattern);
    return null;
  } catch (error) {
    return (error as Error).message;
  }
}

/**
 * Parses the text of a reading; its patterns are tried.
 *
 * @throws ReadingError with the offset of what could not be understood
 */
export function parseReading(text: string): ReadingTree {
  return readingStructure(text, patternFault);
}

/**
 * Parses a condition by itself, as it stands after `where`; "" is none. Its patterns are tried.
 *
 * @throws ReadingError
 */
export function parseCondition(text: string): Condition | null {
  return conditionStructure(text, patternFault);
}
