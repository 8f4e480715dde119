import type { Plate, PlateReading, ReadingsPlate, Sheet } from "./sheet";

/** All plates of a sheet, in the order in which they are read. */
export function platesOf({ bands }: Pick<Sheet, "bands">): Plate[] {
  return bands.flatMap(({ plates }) => plates);
}

/** Every reading of a sheet with the plate that it stands on. */
export function readingsOf(
  one: Pick<Sheet, "bands">,
): { plate: ReadingsPlate; reading: PlateReading; place: number }[] {
  return platesOf(one).flatMap((each) =>
    each.holds === "readings" ? each.readings.map((reading, place) => ({ plate: each, reading, place })) : [],
  );
}
