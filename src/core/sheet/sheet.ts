import { z } from "zod";
import { isOneLine } from "../schema/refinements";
import { look } from "./looks";
import { pick } from "./pick";

/**
 * A sheet: a page of plates for one purpose and its readers. Everything on the screen is derived from this tree; versions,
 * files, undo and the comparison of two writers' work walk it.
 */

export const SHEET_LIMITS = { bands: 40, plates: 4, readings: 6, picks: 12, tags: 20, note: 20_000, bytes: 400_000 };

/** The id of a sheet, as it stands in addresses and names of files. */
export const sheetId = z
  .string()
  .regex(/^[a-z0-9](?:[a-z0-9-]{0,58}[a-z0-9])?$/, "an id is of lower-case letters, digits and dashes, at most 60")
  .meta({ examples: ["lending-floor"] });

const partId = z.string().regex(/^[A-Za-z0-9_-]{1,24}$/, "an id is of letters, digits, _ and -, at most 24");

export const plateReading = z.object({
  /** The reading; picks stand in it as <name>. */
  text: z.string().trim().min(1, "a reading is expected").max(4000),
  /** How series are named: {label} stands for a label's value. "" for the values of all labels. */
  names: z.string().trim().max(200).default(""),
  /** The form of its values, such as "ms" or "MiB"; "" for the one that fits best. */
  unit: z.string().trim().max(20).default(""),
  /** Figures behind the point; null for three figures that matter. */
  decimals: z.number().int().min(0).max(9).nullable().default(null),
});
export type PlateReading = z.infer<typeof plateReading>;

const shared = {
  id: partId,
  title: z.string().trim().max(120).default(""),
  /** How wide it is beside the others of its band. */
  width: z.number().int().min(1).max(6).default(2),
};

export const plate = z.discriminatedUnion("holds", [
  z.object({
    ...shared,
    holds: z.literal("readings"),
    readings: z.array(plateReading).min(1, "a plate needs a reading").max(SHEET_LIMITS.readings),
    look,
  }),
  z.object({
    ...shared,
    holds: z.literal("note"),
    /** Markdown. */
    note: z.string().max(SHEET_LIMITS.note).default(""),
  }),
]);
export type Plate = z.infer<typeof plate>;
export type ReadingsPlate = Extract<Plate, { holds: "readings" }>;

export const band = z.object({
  id: partId,
  title: z.string().trim().max(120).default(""),
  /** Whether it is folded away when the sheet is opened. */
  folded: z.boolean().default(false),
  plates: z.array(plate).max(SHEET_LIMITS.plates, `a band holds at most ${SHEET_LIMITS.plates} plates`).default([]),
});
export type Band = z.infer<typeof band>;

const tag = z.string().trim().min(1).max(40);

function refuseTwice(values: readonly string[], what: string, path: string, context: z.RefinementCtx): void {
  const twice = values.find((value, i) => values.indexOf(value) !== i);
  if (twice !== undefined) context.addIssue({ code: "custom", path: [path], message: `${what} ${twice} stands twice` });
}

export const sheet = z
  .object({
    name: z.string().trim().min(1, "a sheet needs a name").max(120).superRefine(isOneLine),
    /** What it is for, and for whom. */
    purpose: z.string().trim().max(500).default(""),
    tags: z.array(tag).max(SHEET_LIMITS.tags).default([]),
    /** Addresses for mail of the accounts that may see it; empty for everybody. */
    readers: z.array(z.string().trim().toLowerCase().min(3).max(200)).max(200).default([]),
    picks: z.array(pick).max(SHEET_LIMITS.picks).default([]),
    bands: z.array(band).max(SHEET_LIMITS.bands).default([]),
  })
  .superRefine(({ picks, bands }, context) => {
    refuseTwice(
      picks.map(({ name }) => name),
      "pick",
      "picks",
      context,
    );
    const ids = [...bands, ...bands.flatMap(({ plates }) => plates)].map(({ id }) => id);
    refuseTwice(ids, "part", "bands", context);
  });
export type Sheet = z.infer<typeof sheet>;

/** An id for a name: "Lending floor" becomes "lending-floor". @param taken those that are others' */
export function idFor(name: string, taken: (id: string) => boolean): string {
  const base =
    name
      .normalize("NFKD")
      .replace(/\p{M}/gu, "")
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-+|-+$/g, "")
      .slice(0, 50)
      .replace(/-+$/, "") || "sheet";
  if (!taken(base)) return base;
  for (let i = 2; ; i++) if (!taken(`${base}-${i}`)) return `${base}-${i}`;
}
