import { z } from "zod";
import { pickName } from "../../sheet/pick";
import { sheet, sheetId } from "../../sheet/sheet";
import { moment, newId, orderly, withId, zone } from "../asked";
import { call, done } from "../call";
import { linkText } from "../people";
import { readingOutcome } from "../readings";
import { pickValues } from "../sheets";

/** Links to one sheet that need no account. */

const withSheet = z.object({ id: sheetId });
const NONE = { 404: "There is no such sheet." };
const ENDED = { 410: "The link was taken back, or has ended." };
const EXAMPLE = { link: "from-somebody" };
const picks = z.record(z.string(), z.array(z.string().max(1000)).max(200)).default({});

export const makeSheetLink = call({
  method: "POST",
  path: "/api/sheets/{id}/links",
  does: "Makes a link to a sheet that needs no account. It shows that sheet and nothing else, until it ends.",
  did: "made a link to a sheet",
  about: ({ params, body }) => `${params.id}, for ${body.days} days`,
  params: withSheet,
  body: z.object({ days: z.number().int().min(1).max(366) }),
  answer: z.object({
    link: z.string().meta({ description: "The address, which is told only now." }),
    endsAt: z.number(),
  }),
  status: 201,
  problems: NONE,
  example: { params: { id: "lending-floor" }, body: { days: 7 } },
});

export const getSheetLinks = call({
  method: "GET",
  path: "/api/sheets/{id}/links",
  does: "Lists the links of a sheet that work.",
  right: "edit",
  params: withSheet,
  answer: z.object({
    links: z.array(newId.extend({ madeBy: z.string(), createdAt: z.number(), endsAt: z.number() })),
  }),
  problems: NONE,
  example: { params: { id: "lending-floor" } },
});

export const revokeSheetLink = call({
  method: "DELETE",
  path: "/api/sheet-links/{id}",
  does: "Takes a link back: it shows nothing from then on.",
  did: "took a link to a sheet back",
  about: ({ params }) => String(params.id),
  params: withId,
  answer: done,
  problems: { 404: "There is no such link." },
  example: { params: { id: "1" } },
});

export const getShared = call({
  method: "GET",
  path: "/api/shared",
  does: "Gives the sheet behind a link.",
  right: "anybody",
  query: z.object({ link: linkText }),
  answer: z.object({ sheet, savedAt: z.number(), endsAt: z.number() }),
  problems: ENDED,
  example: { query: EXAMPLE },
});

export const answerShared = call({
  method: "POST",
  path: "/api/shared/readings",
  does: "Answers readings of the sheet behind a link, and no others.",
  right: "anybody",
  changes: false,
  body: z
    .object({
      link: linkText,
      readings: z.array(z.string().max(4000)).min(1).max(60),
      from: moment,
      to: moment,
      zone,
      picks,
    })
    .superRefine(orderly),
  answer: z.array(readingOutcome),
  problems: { ...ENDED, 403: "A reading does not stand on the sheet, or it does not offer what was picked." },
  example: { body: { ...EXAMPLE, readings: ["rate of loan.reserved"], from: 1764000000000, to: 1764003600000 } },
});

export const getSharedPick = call({
  method: "POST",
  path: "/api/shared/picks",
  does: "Lists the values of a pick of the sheet behind a link.",
  right: "anybody",
  changes: false,
  body: z.object({ link: linkText, pick: pickName, picks }),
  answer: pickValues,
  problems: {
    ...ENDED,
    403: "The sheet has no such pick, or does not offer what was chosen of those that it depends on.",
  },
  example: { body: { ...EXAMPLE, pick: "depot" } },
});
