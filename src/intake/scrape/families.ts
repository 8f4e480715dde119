import type { Family } from "@/core/openmetrics/model";
import { readExposition } from "@/core/openmetrics/read";
import { ScrapeError } from "@/core/scrape/failure";
import type { Exposition } from "./fetch";

/** All families of an exposition. @throws ScrapeError where a line is not understood, or there is none */
export function familiesOf({ text, dialect }: Exposition): { families: Family[]; samples: number } {
  const { families, problems } = readExposition(text, dialect);
  if (problems.length > 0) {
    const [{ line, text: written, message }] = problems;
    const more = problems.length > 1 ? ` (and ${problems.length - 1} more lines)` : "";
    throw new ScrapeError("parse", `line ${line}: ${message}${written === "" ? "" : ` — ${written}`}${more}`);
  }
  const samples = families.reduce((sum, family) => sum + family.samples.length, 0);
  if (samples === 0) throw new ScrapeError("empty", "not one line with a value");
  return { families, samples };
}
