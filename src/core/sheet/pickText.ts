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
    .filter(
      (other) => other.name !== name && other.source.of === "values" && picksIn(other.source.where).includes(name),
    )
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
  const inPick = (pick: Pick): Pick => {
    const name = pick.name === from ? to : pick.name;
    const { source } = pick;
    return source.of === "values"
      ? { ...pick, name, source: { ...source, where: inReading(source.where) } }
      : { ...pick, name };
  };
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
    ...sheet.picks.flatMap(({ source }) => (source.of === "values" ? picksIn(source.where) : [])),
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
 * The order in which picks can be filled: each after those that its condition names.
 *
 * @returns the names, and those that wait for each other in a ring, which can never be filled
 */
export function pickOrder(picks: readonly Pick[]): { order: string[]; ring: string[] } {
  const waits = new Map(
    picks.map(({ name, source }) => [
      name,
      new Set(
        (source.of === "values" ? picksIn(source.where) : []).filter((other) =>
          picks.some((one) => one.name === other),
        ),
      ),
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

/** The picks that the values of another depend on, with what is chosen of them. */
export function picksFor({ source }: { source: PickSource }, chosen: Chosen): Record<string, readonly string[]> {
  const named =
    source.of === "values" ? picksIn(source.where) : source.of === "releases" ? picksIn(source.service) : [];
  return Object.fromEntries(named.map((name) => [name, chosen[name] ?? []]));
}
