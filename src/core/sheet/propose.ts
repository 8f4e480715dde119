import { readingStructure } from "../reading/language/grammar";
import { measuresOf, ReadingError } from "../reading/language/tree";
import { type Look, lookAs } from "./looks";
import { addsUp } from "./shown/adds";

/** The way to look at a reading that is proposed: nobody has to choose before they see something. */
export function proposedLook(text: string): Look {
  try {
    const measures = measuresOf(readingStructure(text).expression);
    const labels = new Set(measures.flatMap(({ by }) => by));
    const limited = measures.some(({ limit }) => limit !== null);
    if (measures.some(({ aggregation }) => aggregation.type === "spread"))
      return lookAs(labels.size > 0 ? "distribution" : "heat");
    // Two and more labels, or a list of the greatest, are read as rows.
    if (labels.size >= 2 || (limited && labels.size > 0 && !labels.has("service.version"))) return lookAs("table");
    if (
      labels.size === 0 &&
      measures.length > 0 &&
      measures.every(({ aggregation }) => aggregation.type.startsWith("share"))
    )
      return lookAs("number", { good: "neither" });
    if (labels.size === 0 && addsUp(text) && measures.every(({ aggregation }) => aggregation.type === "count"))
      return lookAs("number");
    return lookAs("lines");
  } catch (error) {
    if (error instanceof ReadingError) return lookAs("lines");
    throw error;
  }
}
