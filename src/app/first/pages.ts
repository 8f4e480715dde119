import type { Contract } from "@/core/api/calls";
import { bestForLadder } from "@/core/service/callMetrics";
import type { ServicePlace } from "@/core/service/sections";
import { vitalReadings } from "@/core/service/vitals";
import { chosenOf, picksInAddress } from "@/core/sheet/chosen";
import { holdsIn } from "@/core/sheet/holds";
import { picksInOrder } from "@/core/sheet/pickText";
import type { Sheet } from "@/core/sheet/sheet";
import { judgedSpan, type Span, type WindowChoice } from "@/core/window/window";
import type { PagePath } from "@/ui/frame/pages";
import { ladderPlates } from "@/ui/ladder/plates";
import type { Result } from "@/ui/query/api";
import { byTheMinute, comparedIn } from "@/ui/query/compared";
import {
  comparisonQuestion,
  findingsQuestion,
  homeQuestion,
  instancesQuestion,
  instrumentsQuestion,
  keptComparisonQuestion,
  ladderQuestion,
  metricsQuestion,
  pickValuesQuestion,
  readingQuestion,
  releasesQuestion,
  sendersQuestion,
  serviceMetricsQuestion,
  serviceSectionsQuestion,
  sheetDraftQuestion,
  sheetQuestion,
  sheetsQuestion,
  slowQuestion,
  storeQuestion,
  targetsQuestion,
  totalsQuestion,
} from "@/ui/query/questions";
import { vitalSpan } from "@/ui/services/vitalSpan";
import type { Take } from "./askHere";

/** What each page asks first. */

/** What a page is about. */
export interface PageAddress {
  parameters: URLSearchParams;
  place: ServicePlace | null;
  choice: WindowChoice;
  /** Of the choice, when the document was made. */
  span: Span;
  /** The viewer's zone; null until their browser has told it. */
  zone: string | null;
  /** The services there are. */
  services: readonly ServicePlace[];
  /** Who opens it. */
  me: Promise<Result<Contract["GET /api/me"]> | null>;
}

const HISTOGRAMS = ["histogram", "exponential"];

/** Plates of a service that a screen shows at once, and how many more come behind the document. */
const PLATES_AT_FIRST = 9;
const PLATES_BEHIND = 6;

/** Services whose releases come with a sheet. */
const MAX_MARKED = 8;

/** Plates of a sheet that a screen shows at once. */
const SHEET_PLATES_AT_FIRST = 6;

/** The readings of the plates that a sheet shows at the top, with what is picked; none where a pick cannot be filled. */
async function firstOfSheet(take: Take, sheet: Sheet, parameters: URLSearchParams) {
  const picks = picksInOrder(sheet.picks);
  const firsts = new Map<string, string>();
  for (;;) {
    const { chosen, unknown } = chosenOf(picks, picksInAddress(parameters), (name) => firsts.get(name));
    const pick = picks.find(({ name }) => unknown.includes(name));
    if (!pick) {
      const shown = sheet.bands.filter(({ folded }) => !folded).flatMap(({ plates }) => plates);
      const texts = shown
        .slice(0, SHEET_PLATES_AT_FIRST)
        .flatMap((plate) => (plate.holds === "readings" ? plate.readings.map(({ text }) => text) : []));
      return texts.map((text) => (span: Span, zone: string) => readingQuestion(text, span, zone, chosen));
    }
    const first = (await take(pickValuesQuestion(pick, chosen)))?.values[0]?.value;
    if (first === undefined) return [];
    firsts.set(pick.name, first);
  }
}

/** Longest that a document waits for what stands at the top of its page, ms: what takes longer comes behind it. */
const SOON = 400;

/** Awaits something, but not for long. */
function soon(...awaited: Promise<unknown>[]): Promise<void> {
  return new Promise((resolve) => {
    const timer = setTimeout(resolve, SOON);
    void Promise.all(awaited).then(() => {
      clearTimeout(timer);
      resolve();
    });
  });
}

/** Asks; what is awaited is in the document, the rest comes behind it on the same connection. */
type FirstOf = (take: Take, address: PageAddress) => Promise<void> | void;

export const FIRST: Readonly<Partial<Record<PagePath, FirstOf>>> = {
  "/": async (take) => {
    await take(homeQuestion());
  },
  "/releases": async (take, { place, choice, span, zone, parameters }) => {
    if (!place || zone === null) return;
    const chosen = parameters.get("metric");
    const asked: Promise<unknown>[] = [take(ladderQuestion(place, chosen, judgedSpan(span, choice), zone))];
    const known = await take(serviceMetricsQuestion(place));
    const histograms = bestForLadder((known?.metrics ?? []).filter(({ kind }) => HISTOGRAMS.includes(kind)));
    const metric = histograms.find(({ name }) => name === chosen) ?? histograms.at(0);
    if (metric)
      for (const { reading } of ladderPlates(metric.name, place))
        asked.push(take(readingQuestion(reading, span, zone)));
    await soon(...asked);
  },
  "/releases/two": (take, { place, span, zone, parameters }) => {
    const kept = parameters.get("kept");
    if (kept !== null) return void take(keptComparisonQuestion(kept));
    const release = parameters.get("release");
    if (!place || zone === null || release === null) return;
    void take(comparisonQuestion(place, comparedIn(parameters, release), byTheMinute(span), zone));
  },
  "/services": async (take, { span, zone }) => {
    const listed = soon(take(instancesQuestion(span)), take(targetsQuestion()), take(sendersQuestion()));
    const known = await take(metricsQuestion());
    if (!known || zone === null) return listed;
    const texts = vitalReadings(new Set(known.metrics.map(({ name }) => name))).map(({ reading }) => reading);
    if (texts.length > 0) void take(totalsQuestion(texts, vitalSpan(span), zone));
    await listed;
  },
  "/services/one": async (take, { place, span, zone }) => {
    if (!place) return;
    void take(slowQuestion());
    const found = await take(serviceSectionsQuestion(place));
    if (!found || zone === null) return;
    const plates = found.sections.flatMap(({ plates }) => plates).slice(0, PLATES_AT_FIRST + PLATES_BEHIND);
    const asked = plates.map(({ reading }) => take(readingQuestion(reading, span, zone)));
    await soon(...asked.slice(0, PLATES_AT_FIRST));
  },
  "/scratch": (take, { parameters, span, zone }) => {
    const text = parameters.get("reading")?.trim() ?? "";
    if (text !== "" && zone !== null) return soon(take(readingQuestion(text, span, zone)));
    void take(metricsQuestion());
  },
  "/instruments": (take) => {
    return soon(take(instrumentsQuestion()), take(findingsQuestion()));
  },
  "/sheets": (take, { place }) => {
    if (place) void take(serviceSectionsQuestion(place));
    return soon(take(sheetsQuestion()));
  },
  "/sheets/one": async (take, { parameters, span, zone, services, me }) => {
    const id = parameters.get("sheet");
    if (id === null) return;
    if ((await me)?.rights.includes("edit")) void take(sheetDraftQuestion(id));
    // Releases are marked on each plate: a chart that has to wait for them is drawn twice.
    for (const { service, environment } of services.slice(0, MAX_MARKED))
      void take(releasesQuestion({ service, environment }));
    const saved = await take(sheetQuestion(id));
    // What a sheet is held to needs the attributes of its metrics: the browser asks then.
    if (!saved || zone === null || holdsIn(parameters).length > 0) return;
    const shown = await firstOfSheet(take, saved.sheet, parameters);
    await soon(...shown.map((reading) => take(reading(span, zone))));
  },
  "/sheets/ready": async (take, { place }) => {
    if (place) await Promise.all([take(serviceMetricsQuestion(place)), take(slowQuestion())]);
  },
  "/store": (take) => soon(take(storeQuestion())),
};
