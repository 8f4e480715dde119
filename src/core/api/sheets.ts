import { z } from "zod";
import { MAX_NUMBERED, MAX_TIME } from "../metric/pointLimits";
import { edited } from "../sheet/history";
import { pick } from "../sheet/pick";
import { sheet, sheetId } from "../sheet/sheet";

/** Sheets as the API gives them. Times in Unix ms. */

export const sheetEntry = z.object({
  id: sheetId,
  version: z.number(),
  name: z.string(),
  purpose: z.string(),
  tags: z.array(z.string()),
  readers: z.array(z.string()).meta({ description: "Accounts that may see it; empty: everybody." }),
  metrics: z.array(z.string()).meta({ description: "What it reads." }),
  attributes: z.array(z.string()),
  plates: z.number(),
  at: z.number(),
  who: z.string(),
  deletedAt: z.number().nullable().meta({ description: "When it was thrown away; null while it is there." }),
  deletedBy: z.string().nullable(),
  openedAt: z.number().nullable().meta({ description: "When the asker opened it last." }),
  starred: z.boolean(),
  drafted: z.boolean().meta({ description: "Whether the asker has changes of it that are not saved." }),
  lookers: z.number().meta({ description: "People who opened it within thirty days." }),
});
export type SheetEntry = z.infer<typeof sheetEntry>;

export const sheetVersionEntry = z.object({ version: z.number(), at: z.number(), who: z.string(), note: z.string() });

export const savedSheet = sheetVersionEntry.extend({
  id: sheetId,
  sheet,
  starred: z.boolean(),
});
export type SavedSheetAnswer = z.infer<typeof savedSheet>;

export const sheetNote = z.string().trim().min(1, "say in a few words what changed").max(500);

export const sheetSaving = z.object({
  sheet,
  note: sheetNote,
  based: z
    .number()
    .int()
    .min(0)
    .max(MAX_NUMBERED)
    .nullable()
    .meta({ description: "The version that it was changed from; null: whatever is there." }),
});

export const sheetDraftBody = z.object({
  based: z.number().int().min(0).max(MAX_NUMBERED),
  state: edited,
  seen: z
    .number()
    .int()
    .min(0)
    .max(MAX_TIME)
    .nullable()
    .meta({ description: "When the draft was kept that this one goes on from; null: there was none." }),
});

export const pickQuestion = z.object({
  source: pick.shape.source,
  picks: z.record(z.string(), z.array(z.string().max(1000)).max(200)).default({}),
});

export const pickValues = z.object({
  values: z
    .array(z.object({ value: z.string(), series: z.number() }))
    .meta({ description: "What can be chosen, in order, with how many series have it." }),
  all: z.number().meta({ description: "How many there are; of more than a thousand the first." }),
  cut: z
    .array(z.object({ from: z.string(), to: z.string().nullable() }))
    .meta({ description: "Where a pattern cuts: some values with what comes out; null: nothing." }),
});
export type PickValues = z.infer<typeof pickValues>;

/** A name that changed where data comes from. */
export const repairBody = z.object({
  what: z.enum(["metric", "attribute"]).default("metric"),
  of: z.string().max(255).default("").meta({ description: "Of an attribute: the metric; empty for any." }),
  from: z.string().trim().min(1, "the old name is expected").max(255),
  to: z.string().trim().min(1, "the new name is expected").max(255),
});

export const repairAnswer = z.object({
  sheets: z.array(
    z.object({
      id: sheetId,
      name: z.string(),
      changes: z.array(z.object({ where: z.string(), before: z.string(), after: z.string() })),
    }),
  ),
  others: z.number().meta({ description: "Sheets that it changes and the asker may not see." }),
  contracts: z
    .array(z.object({ name: z.string(), becomes: z.string(), stays: z.string() }))
    .meta({ description: "Contracts with the name, what they are called then, and why one stays as it is." }),
});
export type RepairAnswer = z.infer<typeof repairAnswer>;

export const emptyPlate = z.object({
  sheet: sheetId,
  name: z.string(),
  plate: z.string(),
  metric: z.string(),
  service: z.string(),
  release: z.string(),
  to: z.string().meta({ description: "What the metric probably became; empty where nothing is like it." }),
  since: z.number(),
});

export const plateReading = z.object({
  sheet: sheetId,
  name: z.string().meta({ description: "What the sheet is called." }),
  id: z.string().meta({ description: "Of the plate." }),
  plate: z.string().meta({ description: "The plate in words." }),
  text: z.string().meta({ description: "One of its readings." }),
  picks: z.record(z.string(), z.array(z.string())).meta({ description: "What is picked where nobody chooses." }),
});
