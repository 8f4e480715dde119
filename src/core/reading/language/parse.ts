import { patternProblem } from "../../pattern/pattern";
import { conditionStructure, readingStructure } from "./grammar";
import type { Condition, ReadingTree } from "./tree";

/**
 * Parses the text of a reading; its patterns are tried.
 *
 * @throws ReadingError with the offset of what could not be understood
 */
export function parseReading(text: string): ReadingTree {
  return readingStructure(text, patternProblem);
}

/**
 * Parses a condition by itself, as it stands after `where`; "" is none. Its patterns are tried.
 *
 * @throws ReadingError
 */
export function parseCondition(text: string): Condition | null {
  return conditionStructure(text, patternProblem);
}
