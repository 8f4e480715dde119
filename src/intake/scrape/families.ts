import type { Family } from "@/core/openmetrics/model";
import { readExposition } from "@/core/openmetrics/read";
import { ScrapeError } from "@/core/scrape/failure";
import type { Exposition } from "./fetch";

/** All families of an exposition. @throws ScrapeError where a line is not understood, or there is none */
export function familiesOf({ text, dialect }: Exposition): { families: Family[]; samples: number } {
  const { families, problems } = readExposition(text, dialect);
  const samples = families.reduce((sum, family) => sum + family.samples.length, 0);
  if (problems.length > 0) {
    const [{ line, text: written, message }] = problems;
    const more = problems.length > 1 ? ` (and ${problems.length - 1} more lines)` : "";
    // Of what is no page of metrics at all nothing is shown: it may be meant for others than who can give its address.
    if (samples === 0) throw new ScrapeError("parse", `line ${line} is none of a page of metrics${more}`);
    throw new ScrapeError("parse", `line ${line}: ${message}${written === "" ? "" : ` — ${written}`}${more}`);
  }
  if (samples === 0) throw new ScrapeError("empty", "not one line with a value");
  return { families, samples };
}
