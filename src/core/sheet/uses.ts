import { conditionStructure, readingStructure } from "../reading/language/grammar";
import { attributesOf, needsOf } from "../reading/language/needs";
import { ReadingError } from "../reading/language/tree";
import { plateWords } from "./pickText";
import { readingsOf } from "./plates";
import type { Sheet } from "./sheet";

/** What a sheet cannot do without. */

/** The metrics that a sheet reads and the attributes that it asks them by, each once, by name. */
export function usesOf(sheet: Sheet): { metrics: string[]; attributes: string[] } {
  const metrics = new Set<string>();
  const attributes = new Set<string>();
  for (const { reading } of readingsOf(sheet))
    for (const need of needsIn(reading.text)) {
      metrics.add(need.metric);
      for (const attribute of need.attributes) attributes.add(attribute);
    }
  for (const { source } of sheet.picks) {
    if (source.of !== "values") continue;
    attributes.add(source.attribute);
    for (const attribute of attributesInCondition(source.where)) attributes.add(attribute);
    if (source.metric !== "") metrics.add(source.metric);
  }
  return { metrics: [...metrics].sort(), attributes: [...attributes].sort() };
}

function attributesInCondition(where: string): Iterable<string> {
  try {
    return attributesOf(conditionStructure(where));
  } catch (error) {
    if (error instanceof ReadingError) return [];
    throw error;
  }
}

/** What a reading cannot do without; nothing of one that is not understood. */
export function needsIn(text: string): ReturnType<typeof needsOf> {
  try {
    return needsOf(readingStructure(text));
  } catch (error) {
    if (error instanceof ReadingError) return [];
    throw error;
  }
}

/** What stands on a sheet, reading by reading, with what is picked where nobody chooses. */
export function plateReadingsOf(id: string, sheet: Sheet) {
  const picks = Object.fromEntries(sheet.picks.map(({ name, preset }) => [name, preset]));
  return readingsOf(sheet).map(({ plate, reading }) => ({
    sheet: id,
    name: sheet.name,
    id: plate.id,
    plate: plateWords(plate),
    text: reading.text,
    picks,
  }));
}
