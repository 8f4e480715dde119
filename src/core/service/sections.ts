import type { ServiceMetric } from "../api/services";
import { serviceTests } from "../reading/language/quote";
import type { ReadySheet } from "../sheet/ready/definition";
import { type FilledPlate, filledSheets, firstPlate } from "../sheet/ready/fill";
import type { Work } from "./work";

/**
 * What is always worth seeing of a service, with no set-up: the plates of the ready sheets that are looked at as lines, and
 * its own instruments. A section without data is left out.
 */

export interface SectionPlate {
  title: string;
  reading: string;
}

export interface Section {
  title: string;
  /** The kind of work whose bound for "slow" applies; null where there is none. */
  work: Work | null;
  /** The ready sheet that shows more of it; null where there is none. */
  ready: string | null;
  plates: SectionPlate[];
}

/** A service in an environment. */
export interface ServicePlace {
  service: string;
  environment: string;
}

const MAX_PLATES = 8;
const MAX_OWN = 6;

const plateOf = ({ title, texts }: FilledPlate): SectionPlate => ({ title, reading: texts[0] });

/**
 * The sections of a service's page, and the ready sheets of which it sends something.
 *
 * @param slow what counts as slow, by kind of work, s
 */
export function sectionsOf(
  metrics: readonly ServiceMetric[],
  place: ServicePlace,
  slow: Readonly<Record<Work, number>>,
): { sections: Section[]; ready: ReadySheet[] } {
  const where = serviceTests(place.service, place.environment);
  const { sheets, own } = filledSheets(metrics, where, slow);
  const sections = new Map<string, Section>();
  for (const { ready, bands } of sheets)
    for (const { section: title, work, plates } of bands) {
      const lines = plates.filter(({ as }) => as === "lines").map(plateOf);
      const section = sections.get(title) ?? { title, work, ready: ready.id, plates: [] };
      section.plates = [...section.plates, ...lines].slice(0, MAX_PLATES);
      if (lines.length > 0) sections.set(title, section);
    }
  const plates = own.slice(0, MAX_OWN).map((metric) => plateOf(firstPlate(metric, where)));
  const owned = plates.length > 0 ? [{ title: "Its own instruments", work: null, ready: null, plates }] : [];
  const [first, ...rest] = sections.values();
  // Work is what a service is for: it comes before what it is made of, and its own instruments right behind it.
  const ordered = first?.work ? [first, ...owned, ...rest] : [...owned, ...(first ? [first] : []), ...rest];
  return { sections: ordered, ready: sheets.flatMap(({ ready, bands }) => (bands.length > 0 ? [ready] : [])) };
}
