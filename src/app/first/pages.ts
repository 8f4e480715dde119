import { bestForLadder } from "@/core/service/callMetrics";
import { DEFAULT_SLOW, type ServicePlace, sectionsOf } from "@/core/service/sections";
import { vitalReadings } from "@/core/service/vitals";
import type { Span } from "@/core/window/window";
import type { PagePath } from "@/ui/frame/pages";
import { ladderPlates } from "@/ui/ladder/plates";
import {
  findingsQuestion,
  instancesQuestion,
  instrumentsQuestion,
  ladderQuestion,
  metricsQuestion,
  readingQuestion,
  sendersQuestion,
  serviceMetricsQuestion,
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
  span: Span;
  /** The viewer's zone; null until their browser has told it. */
  zone: string | null;
}

const HISTOGRAMS = ["histogram", "exponential"];

/** Plates of a service that a screen shows at once. */
const PLATES_AT_FIRST = 9;

/** Asks; what is awaited is in the document, the rest comes behind it on the same connection. */
type FirstOf = (take: Take, address: PageAddress) => Promise<void> | void;

export const FIRST: Readonly<Partial<Record<PagePath, FirstOf>>> = {
  "/releases": async (take, { place, span, zone, parameters }) => {
    if (!place || zone === null) return;
    const chosen = parameters.get("metric");
    void take(ladderQuestion(place, chosen, span, zone));
    const known = await take(serviceMetricsQuestion(place));
    const histograms = bestForLadder((known?.metrics ?? []).filter(({ kind }) => HISTOGRAMS.includes(kind)));
    const metric = histograms.find(({ name }) => name === chosen) ?? histograms.at(0);
    if (!metric) return;
    for (const { reading } of ladderPlates(metric.name, place)) void take(readingQuestion(reading, span, zone));
  },
  "/services": async (take, { span, zone }) => {
    void take(instancesQuestion(span));
    void take(targetsQuestion());
    void take(sendersQuestion());
    const known = await take(metricsQuestion());
    if (!known || zone === null) return;
    const texts = vitalReadings(new Set(known.metrics.map(({ name }) => name))).map(({ reading }) => reading);
    if (texts.length > 0) void take(totalsQuestion(texts, vitalSpan(span), zone));
  },
  "/services/one": async (take, { place, span, zone }) => {
    if (!place) return;
    const [metrics, slow] = await Promise.all([take(serviceMetricsQuestion(place)), take(slowQuestion())]);
    if (!metrics || zone === null) return;
    const sections = sectionsOf(metrics.metrics, place, slow ?? DEFAULT_SLOW);
    for (const { reading } of sections.flatMap(({ plates }) => plates).slice(0, PLATES_AT_FIRST))
      void take(readingQuestion(reading, span, zone));
  },
  "/scratch": (take, { parameters, span, zone }) => {
    const text = parameters.get("reading")?.trim() ?? "";
    if (text !== "" && zone !== null) void take(readingQuestion(text, span, zone));
    else void take(metricsQuestion());
  },
  "/instruments": (take) => {
    void take(instrumentsQuestion());
    void take(findingsQuestion());
  },
  "/store": (take) => void take(storeQuestion()),
};
