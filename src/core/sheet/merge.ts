import { same } from "../document/same";
import type { Pick } from "./pick";
import { plateWords } from "./pickText";
import { type Band, type Plate, SHEET_LIMITS, type Sheet } from "./sheet";

/** Two states of a sheet part by part, and the work of two writers brought together. */

const HEAD = ["name", "purpose", "tags", "readers"] as const;
type Head = (typeof HEAD)[number];

const HEAD_WORDS: Readonly<Record<Head, string>> = {
  name: "the name",
  purpose: "the purpose",
  tags: "the tags",
  readers: "who may see it",
};

/** A part of a sheet: a field of its head, a pick, a band without its plates, or a plate. */
export type Part =
  | { of: "head"; field: Head; value: Sheet[Head] }
  | { of: "pick"; pick: Pick }
  | { of: "band"; band: Omit<Band, "plates"> }
  | { of: "plate"; plate: Plate; band: string };

/** All parts of a sheet by a key that stays the same while the part is changed. */
function partsOf(sheet: Sheet): Map<string, Part> {
  const all = new Map<string, Part>();
  for (const field of HEAD) all.set(`head ${field}`, { of: "head", field, value: sheet[field] });
  for (const pick of sheet.picks) all.set(`pick ${pick.name}`, { of: "pick", pick });
  for (const { plates, ...band } of sheet.bands) {
    all.set(`band ${band.id}`, { of: "band", band });
    for (const plate of plates) all.set(`plate ${plate.id}`, { of: "plate", plate, band: band.id });
  }
  return all;
}

/** A part in words. */
export function partWords(part: Part): string {
  switch (part.of) {
    case "head":
      return HEAD_WORDS[part.field];
    case "pick":
      return `the pick ${part.pick.name}`;
    case "band":
      return part.band.title === "" ? "a band" : `the band "${part.band.title}"`;
    case "plate":
      return plateWords(part.plate);
  }
}

/** Whether two sheets say the same. */
export function sameSheet(a: Sheet, b: Sheet): boolean {
  return same(a, b);
}

export interface PartChange {
  key: string;
  did: "added" | "removed" | "changed" | "moved";
  before: Part | null;
  after: Part | null;
}

/** What only says where a part stands is left out. */
const content = (part: Part): unknown => (part.of === "plate" ? part.plate : part);

/** The order in which parts of a kind stand: picks, bands, and plates within their band. */
function sequencesOf(sheet: Sheet): { picks: string[]; bands: string[]; plates: Map<string, string[]> } {
  return {
    picks: sheet.picks.map(({ name }) => name),
    bands: sheet.bands.map(({ id }) => id),
    plates: new Map(sheet.bands.map(({ id, plates }) => [id, plates.map((plate) => plate.id)])),
  };
}

/** Those of `after` that stand elsewhere among the ones that both have: as few as explain the new order. */
function movedIn(before: readonly string[], after: readonly string[]): string[] {
  const common = after.filter((one) => before.includes(one));
  const places = common.map((one) => before.indexOf(one));
  // The longest run that kept its order stays; the others were moved.
  const best: number[][] = [];
  places.forEach((place, i) => {
    let longest: number[] = [];
    for (let j = 0; j < i; j++) if (places[j] < place && best[j].length > longest.length) longest = best[j];
    best.push([...longest, i]);
  });
  const stay = best.reduce<number[]>((longest, run) => (run.length > longest.length ? run : longest), []);
  return common.filter((_, i) => !stay.includes(i));
}

/** What changed from one state of a sheet to another, part by part. */
export function changesBetween(before: Sheet, after: Sheet): PartChange[] {
  const [old, now] = [partsOf(before), partsOf(after)];
  const [was, is] = [sequencesOf(before), sequencesOf(after)];
  const moved = new Set([
    ...movedIn(was.picks, is.picks).map((name) => `pick ${name}`),
    ...movedIn(was.bands, is.bands).map((id) => `band ${id}`),
    ...[...is.plates].flatMap(([id, plates]) => movedIn(was.plates.get(id) ?? [], plates).map((one) => `plate ${one}`)),
  ]);
  const changes: PartChange[] = [];
  for (const [key, part] of now) {
    const earlier = old.get(key) ?? null;
    if (!earlier) changes.push({ key, did: "added", before: null, after: part });
    else if (!same(content(earlier), content(part)))
      changes.push({ key, did: "changed", before: earlier, after: part });
    else if (moved.has(key) || (part.of === "plate" && earlier.of === "plate" && part.band !== earlier.band))
      changes.push({ key, did: "moved", before: earlier, after: part });
  }
  for (const [key, part] of old) if (!now.has(key)) changes.push({ key, did: "removed", before: part, after: null });
  return changes;
}

/** A part that two people changed differently from the state that both began from. */
export interface Conflict {
  key: string;
  /** null: taken away. */
  mine: Part | null;
  theirs: Part | null;
}

export type Side = "mine" | "theirs";

/**
 * Brings two people's work on one sheet together. What only one of them changed is taken from that one.
 *
 * @param base the state that both began from
 * @param take whose is taken where both changed a part, by the part's key
 */
export function merged(
  base: Sheet,
  mine: Sheet,
  theirs: Sheet,
  take: (key: string) => Side,
): { sheet: Sheet; conflicts: Conflict[] } {
  const [old, own, other] = [partsOf(base), partsOf(mine), partsOf(theirs)];
  const conflicts: Conflict[] = [];
  const result = new Map<string, Part>();
  for (const key of new Set([...other.keys(), ...own.keys()])) {
    const [was, mines, their] = [old.get(key) ?? null, own.get(key) ?? null, other.get(key) ?? null];
    const iChanged = !same(was, mines);
    const theyChanged = !same(was, their);
    let side: Side = iChanged ? "mine" : "theirs";
    if (iChanged && theyChanged && !same(mines, their)) {
      conflicts.push({ key, mine: mines, theirs: their });
      side = take(key);
    }
    const part = side === "mine" ? mines : their;
    if (part) result.set(key, part);
  }
  return { sheet: assembled(result, base, mine, theirs), conflicts };
}

/** The order of two people's lists: mine where I changed it and they did not, else theirs; what one lacks stands behind what it stood behind. */
function mergedOrder(base: readonly string[], mine: readonly string[], theirs: readonly string[]): string[] {
  const iMoved = movedIn(base, mine).length > 0;
  const theyMoved = movedIn(base, theirs).length > 0;
  const [first, second] = iMoved && !theyMoved ? [mine, theirs] : [theirs, mine];
  const order = [...first];
  second.forEach((one, i) => {
    if (order.includes(one)) return;
    const before = second.slice(0, i).findLast((other) => order.includes(other));
    order.splice(before === undefined ? 0 : order.indexOf(before) + 1, 0, one);
  });
  return order;
}

function assembled(parts: ReadonlyMap<string, Part>, base: Sheet, mine: Sheet, theirs: Sheet): Sheet {
  const [was, own, other] = [sequencesOf(base), sequencesOf(mine), sequencesOf(theirs)];
  const all = [...parts.values()];
  const head = Object.fromEntries(all.flatMap((part) => (part.of === "head" ? [[part.field, part.value]] : [])));
  const picks = mergedOrder(was.picks, own.picks, other.picks).flatMap((name) => {
    const part = parts.get(`pick ${name}`);
    return part?.of === "pick" ? [part.pick] : [];
  });
  const plates = all.flatMap((part) => (part.of === "plate" ? [part] : []));
  const bands: Band[] = [];
  const placed = new Set<string>();
  for (const id of mergedOrder(was.bands, own.bands, other.bands)) {
    const part = parts.get(`band ${id}`);
    if (part?.of !== "band") continue;
    const order = mergedOrder(was.plates.get(id) ?? [], own.plates.get(id) ?? [], other.plates.get(id) ?? []);
    const here = plates
      .filter(({ band }) => band === id)
      .sort((a, b) => order.indexOf(a.plate.id) - order.indexOf(b.plate.id))
      .map(({ plate }) => plate);
    for (const { id: plate } of here) placed.add(plate);
    pushBands(bands, { ...part.band, plates: here });
  }
  // A plate that one of them kept in a band that the other took away.
  const homeless = plates.filter(({ plate }) => !placed.has(plate.id)).map(({ plate }) => plate);
  if (homeless.length > 0)
    pushBands(bands, { id: `kept-${homeless[0].id}`.slice(0, 24), title: "", folded: false, plates: homeless });
  return { ...(head as Omit<Sheet, "picks" | "bands">), picks, bands: bands.slice(0, SHEET_LIMITS.bands) };
}

/** Adds a band; what it has no room for stands in bands behind it. */
function pushBands(bands: Band[], band: Band): void {
  const { plates } = band;
  bands.push({ ...band, plates: plates.slice(0, SHEET_LIMITS.plates) });
  for (let first = SHEET_LIMITS.plates; first < plates.length; first += SHEET_LIMITS.plates) {
    const more = plates.slice(first, first + SHEET_LIMITS.plates);
    bands.push({ id: `more-${more[0].id}`.slice(0, 24), title: band.title, folded: band.folded, plates: more });
  }
}
