import { lex } from "../reading/language/lex";
import { ReadingError } from "../reading/language/tree";
import type { Chosen } from "./chosen";
import type { Pick, PickSource } from "./pick";
import { platesOf, readingsOf } from "./plates";
import type { Plate, Sheet } from "./sheet";

/** Picks where they stand in texts: in readings and conditions as tokens, in titles and notes as they are written. */

interface Found {
  name: string;
  from: number;
  to: number;
}

const WRITTEN = /<([\p{L}_][\p{L}\p{N}_.-]*)>/gu;

/** Where picks stand in a reading; also in one that is not whole yet. */
function placesIn(text: string): Found[] {
  try {
    return lex(text)
      .filter(({ kind }) => kind === "pick")
      .map(({ text: name, from, to }) => ({ name, from, to }));
  } catch (error) {
    if (!(error instanceof ReadingError)) throw error;
    return writtenIn(text);
  }
}

function writtenIn(text: string): Found[] {
  return [...text.matchAll(WRITTEN)].map((match) => ({
    name: match[1],
    from: match.index,
    to: match.index + match[0].length,
  }));
}

/** The names of the picks in a reading or a condition, each once. */
export function picksIn(text: string): string[] {
  return [...new Set(placesIn(text).map(({ name }) => name))];
}

const WHOLE = /^<([\p{L}_][\p{L}\p{N}_.-]*)>$/u;

/** The pick that stands where a service is named, as "<service>"; null where that is a service's own name. */
export function pickNamed(service: string): string | null {
  return WHOLE.exec(service)?.[1] ?? null;
}

/** The names of the picks that the values of another depend on. */
export function picksOfSource(source: PickSource): string[] {
  if (source.of === "values") return picksIn(source.where);
  const named = source.of === "releases" ? pickNamed(source.service) : null;
  return named === null ? [] : [named];
}

function renamed(text: string, places: readonly Found[], from: string, to: string): string {
  let result = text;
  for (const place of [...places].reverse())
    if (place.name === from) result = `${result.slice(0, place.from)}<${to}>${result.slice(place.to)}`;
  return result;
}

/** A title with what is chosen in the place of picks. */
export function filledIn(text: string, words: (name: string) => string | undefined): string {
  return text.replace(WRITTEN, (written, name: string) => words(name) ?? written);
}

/** Where a pick is used, in words: "the plate Doors", "the pick kind". */
export function usesOfPick(sheet: Sheet, name: string): string[] {
  const plates = readingsOf(sheet)
    .filter(({ reading }) => picksIn(reading.text).includes(name))
    .map(({ plate }) => plateWords(plate));
  const picks = sheet.picks
    .filter((other) => other.name !== name && picksOfSource(other.source).includes(name))
    .map((other) => `the pick ${other.name}`);
  return [...new Set([...plates, ...picks])];
}

/** A plate in words. */
export function plateWords(plate: Plate): string {
  if (plate.title !== "") return `the plate "${plate.title}"`;
  return plate.holds === "note" ? "a note" : `the plate of ${plate.readings[0].text}`;
}

/** Gives a pick another name, wherever it is used. */
export function renamePick(sheet: Sheet, from: string, to: string): Sheet {
  const inReading = (text: string) => renamed(text, placesIn(text), from, to);
  const inText = (text: string) => renamed(text, writtenIn(text), from, to);
  const inLinks = (text: string) => text.replaceAll(`pick.${from}=`, `pick.${to}=`);
  const inSource = (source: PickSource): PickSource => {
    if (source.of === "values") return { ...source, where: inReading(source.where) };
    return source.of === "releases" && pickNamed(source.service) === from ? { ...source, service: `<${to}>` } : source;
  };
  const inPick = (pick: Pick): Pick => ({
    ...pick,
    name: pick.name === from ? to : pick.name,
    source: inSource(pick.source),
  });
  const inPlate = (plate: Plate): Plate => {
    const title = inText(plate.title);
    if (plate.holds === "note") return { ...plate, title, note: inLinks(inText(plate.note)) };
    const look = plate.look.as === "table" ? { ...plate.look, link: inLinks(plate.look.link) } : plate.look;
    const readings = plate.readings.map((reading) => ({ ...reading, text: inReading(reading.text) }));
    return { ...plate, title, readings, look };
  };
  return {
    ...sheet,
    picks: sheet.picks.map(inPick),
    bands: sheet.bands.map((band) => ({ ...band, title: inText(band.title), plates: band.plates.map(inPlate) })),
  };
}

/** Picks that readings or other picks name and the sheet does not have, with who names them. */
export function missingPicks(sheet: Sheet): { name: string; uses: string[] }[] {
  const known = new Set(sheet.picks.map(({ name }) => name));
  const named = [
    ...readingsOf(sheet).flatMap(({ reading }) => picksIn(reading.text)),
    ...sheet.picks.flatMap(({ source }) => picksOfSource(source)),
  ];
  return [...new Set(named)]
    .filter((name) => !known.has(name))
    .map((name) => ({ name, uses: usesOfPick(sheet, name) }));
}

/** Picks that nothing on the sheet uses. */
export function idlePicks(sheet: Sheet): string[] {
  const inTexts = [
    ...sheet.bands.map(({ title }) => title),
    ...platesOf(sheet).flatMap((plate) => [plate.title, ...(plate.holds === "note" ? [plate.note] : [])]),
  ].flatMap((text) => writtenIn(text).map(({ name }) => name));
  return sheet.picks
    .map(({ name }) => name)
    .filter((name) => !inTexts.includes(name) && usesOfPick(sheet, name).length === 0);
}

/**
 * The order in which picks can be filled: each after those that its values depend on.
 *
 * @returns the names, and those that wait for each other in a ring, which can never be filled
 */
export function pickOrder(picks: readonly Pick[]): { order: string[]; ring: string[] } {
  const waits = new Map(
    picks.map(({ name, source }) => [
      name,
      new Set(picksOfSource(source).filter((other) => picks.some((one) => one.name === other))),
    ]),
  );
  const order: string[] = [];
  for (;;) {
    const ready = [...waits].filter(([, others]) => [...others].every((other) => order.includes(other)));
    if (ready.length === 0) return { order, ring: [...waits.keys()] };
    for (const [name] of ready) {
      order.push(name);
      waits.delete(name);
    }
  }
}

/** Picks in the order in which they can be filled, without those that wait for each other. */
export function picksInOrder(picks: readonly Pick[]): Pick[] {
  return pickOrder(picks).order.map((name) => picks.find((pick) => pick.name === name)!);
}

/** The picks that one waits for, by themselves or through others. */
export function picksBefore(picks: readonly Pick[], { source }: { source: PickSource }): Pick[] {
  const before = new Set<Pick>();
  const look = (names: readonly string[]) => {
    for (const one of picks)
      if (names.includes(one.name) && !before.has(one)) {
        before.add(one);
        look(picksOfSource(one.source));
      }
  };
  look(picksOfSource(source));
  return [...before];
}

/** What is chosen of the picks that one waits for, by themselves or through others. */
export function chosenBefore(picks: readonly Pick[], pick: Pick, chosen: Chosen): Chosen {
  return Object.fromEntries(
    picksBefore(picks, pick).flatMap(({ name }) => (chosen[name] ? [[name, chosen[name]]] : [])),
  );
}

/** The picks that the values of another depend on, with what is chosen of them. */
export function picksFor({ source }: { source: PickSource }, chosen: Chosen): Record<string, readonly string[]> {
  return Object.fromEntries(picksOfSource(source).map((name) => [name, chosen[name] ?? []]));
}
