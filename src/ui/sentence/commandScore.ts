import { defaultFilter } from "cmdk";

/** What is typed is looked for letter by letter, one call within the other: more letters than these only as they stand. */
const MAX_LETTERS = 200;

/** How well an entry of a list fits what is typed, 0 to 1; 0: not at all. */
export function commandScore(entry: string, typed: string): number {
  if (typed.length > MAX_LETTERS) return entry.toLowerCase().includes(typed.toLowerCase()) ? 1 : 0;
  return defaultFilter(entry.slice(0, 2 * MAX_LETTERS), typed);
}
