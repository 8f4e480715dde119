import type { PickValues } from "@/core/api/sheets";
import type { Picks } from "@/core/reading/language/conditions";
import type { PickSource } from "@/core/sheet/pick";
import { pickValues } from "@/store/sheets/pickValues";
import type { Surroundings } from "../surroundings";

/** The values of a pick; `picks` are what is chosen of those that its source names. */
export interface PickValuesJob {
  type: "pick values";
  source: PickSource;
  picks: Picks;
}

/** @throws ReadingError where its condition is not understood */
export function answerPickValues(
  { client, stillWanted }: Surroundings,
  { source, picks }: PickValuesJob,
): Promise<PickValues> {
  return pickValues(client, source, picks, stillWanted);
}
