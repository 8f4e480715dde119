import { z } from "zod";
import { parseReading } from "../reading/language/parse";
import { ReadingError } from "../reading/language/tree";
import { faultText } from "../schema/fault";
import { missingPicks, pickOrder, plateWords } from "./pickText";
import { readingsOf } from "./plates";
import { type Sheet, sheet, sheetId } from "./sheet";
import { usesOf } from "./uses";

/** Sheets as files: one or several, so that they can live in a repository and go from one installation to another. */

export const SHEET_FORMAT = "tin-ladder sheets";

export const sheetFile = z.object({
  format: z.literal(SHEET_FORMAT, `a file of sheets says "format": "${SHEET_FORMAT}"`),
  version: z.literal(1, "this version of Tin Ladder reads files of version 1"),
  sheets: z
    .array(z.object({ id: sheetId, sheet }))
    .min(1, "the file has no sheet")
    .max(500),
});
export type SheetFile = z.infer<typeof sheetFile>;

/** A file of sheets, as its text. Of the same sheets it is the same text. */
export function printSheetFile(sheets: SheetFile["sheets"]): string {
  const ordered = [...sheets].sort((a, b) => (a.id < b.id ? -1 : 1));
  return `${JSON.stringify({ format: SHEET_FORMAT, version: 1, sheets: ordered }, null, 2)}\n`;
}

/** What is wrong with a file of sheets. */
export class SheetFileError extends Error {
  override name = "SheetFileError";
}

/** Reads a file of sheets. @throws SheetFileError that says what is wrong and where */
export function parseSheetFile(text: string): SheetFile["sheets"] {
  let given: unknown;
  try {
    given = JSON.parse(text);
  } catch (error) {
    throw new SheetFileError(`it is not JSON: ${(error as Error).message}`);
  }
  const read = sheetFile.safeParse(given);
  if (read.success) return read.data.sheets;
  const [issue] = read.error.issues;
  throw new SheetFileError(`${issue.path.join(".") || "the file"}: ${faultText(issue.message)}`);
}

/** What of a sheet cannot be read as it stands, in words; it can be saved all the same. */
export function problemsOf(one: Sheet): string[] {
  const problems = readingsOf(one).flatMap(({ plate, reading }) => {
    try {
      parseReading(reading.text);
      return [];
    } catch (error) {
      if (!(error instanceof ReadingError)) throw error;
      return [`${plateWords(plate)}: ${error.message} (at character ${error.position + 1} of "${reading.text}")`];
    }
  });
  const missing = missingPicks(one).map(
    ({ name, uses }) => `<${name}> is no pick of the sheet; ${uses.join(", ")} names it`,
  );
  const { ring } = pickOrder(one.picks);
  return [...problems, ...missing, ...(ring.length > 0 ? [`the picks ${ring.join(" and ")} wait for each other`] : [])];
}

/** Metrics that sheets read and that do not arrive. */
export function unknownMetrics(sheets: readonly Sheet[], known: ReadonlySet<string>): string[] {
  return [...new Set(sheets.flatMap((one) => usesOf(one).metrics))].filter((name) => !known.has(name)).sort();
}
