import { type Draft, original, produce } from "immer";
import type { Pick } from "./pick";
import { type Band, type Plate, SHEET_LIMITS, type Sheet } from "./sheet";

/** Changes of a sheet. What cannot be done changes nothing. */

/** Changes a draft of a sheet in place. */
export type Change = (sheet: Draft<Sheet>) => void;

/** The sheet that a change makes of another. */
export function withChange(sheet: Sheet, change: Change): Sheet {
  return produce(sheet, (draft) => {
    change(draft);
  });
}

/** A new id for a band or a plate. */
export function newPartId(): string {
  return crypto.randomUUID().replaceAll("-", "").slice(0, 10);
}

/** Where a plate stands. */
export function placeOf<S extends { bands: Band[] }>(
  sheet: S,
  plate: string,
): { band: S["bands"][number]; at: number } | null {
  for (const band of sheet.bands) {
    const at = band.plates.findIndex(({ id }) => id === plate);
    if (at >= 0) return { band, at };
  }
  return null;
}

/** Whether a band has room for a plate, which may stand in it already. */
export function hasRoom({ plates }: Band, plate: string): boolean {
  return plates.length < SHEET_LIMITS.plates || plates.some(({ id }) => id === plate);
}

/** Whether a band or a plate has an id. */
function hasPart({ bands }: Sheet, id: string): boolean {
  return bands.some((band) => band.id === id || band.plates.some((plate) => plate.id === id));
}

export function addBand(band: Band, at: number): Change {
  return (sheet) => {
    if (sheet.bands.length < SHEET_LIMITS.bands && !hasPart(sheet, band.id)) sheet.bands.splice(at, 0, band);
  };
}

export function changeBand(id: string, to: Partial<Omit<Band, "id" | "plates">>): Change {
  return ({ bands }) => {
    const band = bands.find((one) => one.id === id);
    if (band) Object.assign(band, to);
  };
}

/** Takes a band away, with what stands in it. */
export function removeBand(id: string): Change {
  return (sheet) => {
    sheet.bands = sheet.bands.filter((band) => band.id !== id);
  };
}

/** Moves a band so that it is the one at a place, counted from 0. */
export function moveBand(id: string, to: number): Change {
  return ({ bands }) => {
    const from = bands.findIndex((band) => band.id === id);
    if (from < 0 || to < 0 || to >= bands.length) return;
    const [band] = bands.splice(from, 1);
    bands.splice(to, 0, band);
  };
}

/** Puts a plate into a band; into a band of its own behind it where that is full. */
export function addPlate(plate: Plate, band: string, at: number): Change {
  return (sheet) => {
    const { bands } = sheet;
    const found = bands.find(({ id }) => id === band);
    if (!found || hasPart(sheet, plate.id)) return;
    if (found.plates.length < SHEET_LIMITS.plates) found.plates.splice(at, 0, plate);
    else if (bands.length < SHEET_LIMITS.bands)
      bands.splice(bands.indexOf(found) + 1, 0, { id: newPartId(), title: "", folded: false, plates: [plate] });
  };
}

export function changePlate(id: string, to: (plate: Plate) => Plate): Change {
  return ({ bands }) => {
    for (const band of bands) band.plates = band.plates.map((plate) => (plate.id === id ? to(plate as Plate) : plate));
  };
}

export function removePlate(id: string): Change {
  return ({ bands }) => {
    for (const band of bands) band.plates = band.plates.filter((plate) => plate.id !== id);
  };
}

/** Moves a plate before the one at a place of a band, counted without itself. */
export function movePlate(id: string, band: string, at: number): Change {
  return (sheet) => {
    const from = placeOf(sheet, id);
    const target = sheet.bands.find((one) => one.id === band);
    if (!from || !target || !hasRoom(target, id)) return;
    const [plate] = from.band.plates.splice(from.at, 1);
    target.plates.splice(at, 0, plate);
  };
}

/** Puts a copy of a plate beside it. */
export function copyPlate(id: string, copy: string): Change {
  return (sheet) => {
    const found = placeOf(sheet, id);
    if (!found) return;
    const plate = original(found.band.plates[found.at]) ?? found.band.plates[found.at];
    addPlate({ ...plate, id: copy }, found.band.id, found.at + 1)(sheet);
  };
}

/** Moves a plate one place on in the order in which plates are read, into the next band with room where its own ends. */
export function stepPlate(id: string, by: 1 | -1): Change {
  return (sheet) => {
    const found = placeOf(sheet, id);
    if (!found) return;
    const { band, at } = found;
    const to = at + by;
    if (to >= 0 && to < band.plates.length) return movePlate(id, band.id, to)(sheet);
    const bands = by > 0 ? sheet.bands : [...sheet.bands].reverse();
    const own = bands.findIndex((one) => one.id === band.id);
    const next = bands.slice(own + 1).find((one) => hasRoom(one, id));
    if (next) movePlate(id, next.id, by > 0 ? 0 : next.plates.length)(sheet);
  };
}

export function addPick(pick: Pick): Change {
  return ({ picks }) => {
    if (picks.length < SHEET_LIMITS.picks && !picks.some(({ name }) => name === pick.name)) picks.push(pick);
  };
}

export function changePick(name: string, to: Pick): Change {
  return (sheet) => {
    sheet.picks = sheet.picks.map((one) => (one.name === name ? to : one));
  };
}

export function removePick(name: string): Change {
  return (sheet) => {
    sheet.picks = sheet.picks.filter((one) => one.name !== name);
  };
}

/** Moves a pick one place on in the sentence. */
export function stepPick(name: string, by: 1 | -1): Change {
  return ({ picks }) => {
    const from = picks.findIndex((one) => one.name === name);
    const to = from + by;
    if (from < 0 || to < 0 || to >= picks.length) return;
    const [one] = picks.splice(from, 1);
    picks.splice(to, 0, one);
  };
}

/** Changes what stands at the head. */
export function changeHead(to: Partial<Omit<Sheet, "bands" | "picks">>): Change {
  return (sheet) => {
    Object.assign(sheet, to);
  };
}
