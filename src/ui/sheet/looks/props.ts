import type { ReadingResult } from "@/core/reading/result";
import type { Look } from "@/core/sheet/looks";
import type { PlateReading } from "@/core/sheet/sheet";
import type { Mark } from "../../query/use";

/** A reading of a plate with its answer. */
export interface ShownReading extends PlateReading {
  /** Its text with what the sheet is held to. */
  asked: string;
  result: ReadingResult;
  /** Of the earlier window, moved on to this one; null where there is none. */
  earlier: ReadingResult | null;
}

/** What a way to look is given: at least one reading, all answered. */
export interface LookProps<L extends Look = Look> {
  look: L;
  readings: readonly ShownReading[];
  marks: readonly Mark[];
  height: number;
  /** How the earlier window is called; "" for none. */
  earlierWords: string;
}
