import { type LookName, lookAs } from "@/core/sheet/looks";
import type { Band, Plate } from "@/core/sheet/sheet";

/** Sheets written down short. */

type Reading = string | { text: string; names?: string; unit?: string; decimals?: number };

export function readings(
  id: string,
  title: string,
  as: LookName,
  given: Reading | Reading[],
  settings: object = {},
  width = 2,
): Plate {
  return {
    id,
    title,
    width,
    holds: "readings",
    readings: [given].flat().map((one) => ({
      names: "",
      unit: "",
      decimals: null,
      ...(typeof one === "string" ? { text: one } : one),
    })),
    look: lookAs(as, settings as Record<string, unknown>),
  };
}

export function note(id: string, title: string, text: string, width = 2): Plate {
  return { id, title, width, holds: "note", note: text };
}

export function band(id: string, title: string, plates: Plate[], folded = false): Band {
  return { id, title, folded, plates };
}
