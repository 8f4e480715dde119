import { z } from "zod";
import { sheet, sheetId } from "../../sheet/sheet";
import { metricName } from "../asked";
import { call, done } from "../call";
import {
  emptyPlate,
  pickQuestion,
  pickValues,
  plateReading,
  repairAnswer,
  repairBody,
  savedSheet,
  sheetDraftBody,
  sheetEntry,
  sheetNote,
  sheetSaving,
  sheetVersionEntry,
} from "../sheets";

/** Sheets: readings that are kept, laid out for a purpose and its readers. */

const withSheet = z.object({ id: sheetId });
const NONE = { 404: "There is no such sheet." };
const EXAMPLE = { params: { id: "lending-floor" } };
const BODY = {
  name: "Lending floor",
  bands: [
    {
      id: "loans",
      title: "Loans",
      plates: [
        {
          id: "reserved",
          title: "Reserved",
          holds: "readings",
          readings: [{ text: "rate of loan.reserved by depot" }],
          look: { as: "lines" },
        },
      ],
    },
  ],
};

export const getSheets = call({
  method: "GET",
  path: "/api/sheets",
  does: "Lists sheets, also those that were thrown away within thirty days.",
  answer: z.object({ sheets: z.array(sheetEntry) }),
});

export const createSheet = call({
  method: "POST",
  path: "/api/sheets",
  does: "Makes a sheet, with an id that follows its name unless one is wanted.",
  did: "made a sheet",
  about: ({ body }) => `${body.sheet.name}: ${body.note}`,
  body: z.object({ sheet, note: sheetNote, id: sheetId.optional() }),
  answer: z.object({ id: sheetId, version: z.number() }),
  status: 201,
  problems: { 409: "The id is taken." },
  example: { body: { sheet: BODY, note: "what the loans team looks at" } },
});

export const getSheet = call({
  method: "GET",
  path: "/api/sheets/{id}",
  does: "Gives a sheet as it was saved last, or one of its versions.",
  params: withSheet,
  query: z.object({ version: z.coerce.number<string | number>().int().min(1).max(1_000_000_000).optional() }),
  answer: savedSheet,
  problems: NONE,
  example: EXAMPLE,
});

export const saveSheet = call({
  method: "PUT",
  path: "/api/sheets/{id}",
  does: "Saves a sheet as its next version.",
  did: "saved a sheet",
  about: ({ params, body }) => `${params.id}: ${body.note}`,
  params: withSheet,
  body: sheetSaving,
  answer: z.object({
    version: z.number().meta({ description: "The version that it is now; the one before where nothing changed." }),
  }),
  problems: { ...NONE, 409: "Somebody else saved it meanwhile." },
  example: { ...EXAMPLE, body: { sheet: BODY, note: "loans by depot", based: 1 } },
});

export const throwSheetAway = call({
  method: "DELETE",
  path: "/api/sheets/{id}",
  does: "Throws a sheet away. It comes back for thirty days.",
  did: "threw a sheet away",
  about: ({ params }) => params.id,
  params: withSheet,
  answer: done,
  problems: NONE,
  example: EXAMPLE,
});

export const takeSheetBack = call({
  method: "POST",
  path: "/api/sheets/{id}/back",
  does: "Takes a sheet back that was thrown away.",
  did: "took a sheet back",
  about: ({ params }) => params.id,
  params: withSheet,
  answer: done,
  problems: NONE,
  example: EXAMPLE,
});

export const getSheetVersions = call({
  method: "GET",
  path: "/api/sheets/{id}/versions",
  does: "Lists the versions of a sheet, the newest first.",
  params: withSheet,
  answer: z.object({ versions: z.array(sheetVersionEntry) }),
  problems: NONE,
  example: EXAMPLE,
});

export const getSheetDraft = call({
  method: "GET",
  path: "/api/sheets/{id}/draft",
  does: "Gives what the asker changed on a sheet and has not saved.",
  right: "edit",
  peopleOnly: true,
  params: withSheet,
  answer: z.object({
    draft: sheetDraftBody.omit({ seen: true }).extend({ at: z.number() }).nullable(),
  }),
  problems: NONE,
  example: EXAMPLE,
});

export const keepSheetDraft = call({
  method: "PUT",
  path: "/api/sheets/{id}/draft",
  does: "Keeps what the asker changed on a sheet and has not saved.",
  peopleOnly: true,
  params: withSheet,
  body: sheetDraftBody,
  answer: z.object({ at: z.number().meta({ description: "When it was kept." }) }),
  problems: { ...NONE, 409: "The asker went on with it elsewhere meanwhile." },
  example: { ...EXAMPLE, body: { based: 1, state: { sheet: BODY, steps: [], done: 0 }, seen: null } },
});

export const dropSheetDraft = call({
  method: "DELETE",
  path: "/api/sheets/{id}/draft",
  does: "Gives up what the asker changed on a sheet.",
  peopleOnly: true,
  params: withSheet,
  answer: done,
  problems: NONE,
  example: EXAMPLE,
});

export const noteSheetOpened = call({
  method: "POST",
  path: "/api/sheets/{id}/opened",
  does: "Notes that the asker looks at a sheet.",
  right: "see",
  peopleOnly: true,
  params: withSheet,
  answer: done,
  problems: NONE,
  example: EXAMPLE,
});

export const starSheet = call({
  method: "PUT",
  path: "/api/sheets/{id}/star",
  does: "Keeps a sheet at hand for the asker, or no more.",
  right: "see",
  peopleOnly: true,
  params: withSheet,
  body: z.object({ starred: z.boolean() }),
  answer: done,
  problems: NONE,
  example: { ...EXAMPLE, body: { starred: true } },
});

export const getPickValues = call({
  method: "POST",
  path: "/api/picks/values",
  does: "Lists the values that a pick can have.",
  changes: false,
  body: pickQuestion,
  answer: pickValues,
  example: { body: { source: { of: "values", attribute: "depot", metric: "loan.reserved" } } },
});

const REPAIR = { body: { what: "metric", from: "loan.extend.count", to: "loan.extended" } } as const;

export const getReplacements = call({
  method: "GET",
  path: "/api/repairs",
  counts: true,
  does: "Names what a metric, or an attribute that it has no more, has probably become.",
  query: z.object({ metric: metricName, attribute: z.string().max(255).default("") }),
  answer: z.object({ replacements: z.array(z.object({ to: z.string(), why: z.string() })) }),
  example: { query: { metric: "loan.extend.count" } },
});

export const getEmptyPlates = call({
  method: "GET",
  path: "/api/repairs/empty",
  does: "Lists plates of metrics that the newest release of a service lacks.",
  answer: z.object({ plates: z.array(emptyPlate) }),
});

export const getPlates = call({
  method: "GET",
  path: "/api/plates",
  does: "Lists what stands on all sheets that the asker may see, reading by reading.",
  answer: z.object({
    plates: z.array(plateReading),
    others: z.number().meta({ description: "Sheets that the asker may not see." }),
  }),
});

export const previewRepair = call({
  method: "POST",
  path: "/api/repairs/preview",
  does: "Tells what putting a name right would change on all sheets and in contracts.",
  changes: false,
  body: repairBody,
  answer: repairAnswer,
  example: REPAIR,
});

export const applyRepair = call({
  method: "POST",
  path: "/api/repairs",
  does: "Puts a name right on all sheets and in contracts, each as its next version, all of them or none.",
  did: "repaired sheets",
  about: ({ body }) => `${body.from} became ${body.to}`,
  body: repairBody,
  answer: repairAnswer,
  example: REPAIR,
});
