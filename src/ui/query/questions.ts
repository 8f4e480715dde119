import type { Contract } from "@/core/api/calls";
import { COSTLIEST } from "@/core/api/costliest";
import { type HeldValue, heldText } from "@/core/api/held";
import type { ServicePlace } from "@/core/service/sections";
import type { Chosen } from "@/core/sheet/chosen";
import type { PickSource } from "@/core/sheet/pick";
import { picksFor, picksIn } from "@/core/sheet/pickText";
import { MINUTE } from "@/core/window/lengths";
import { railSpan, type Span } from "@/core/window/window";
import type { Input } from "./api";

/**
 * What pages ask first, as data: the key under which the answer is kept, and the call that gives it. The browser asks so,
 * and the server before it, so that answers come with the document.
 */
export interface Question<K extends keyof Contract> {
  queryKey: readonly unknown[];
  call: K;
  input: Input<Contract[K]>;
}

const NO_PICKS: Chosen = {};

const question = <K extends keyof Contract>(queryKey: readonly unknown[], call: K, input: Input<Contract[K]>) =>
  ({ queryKey, call, input }) satisfies Question<K>;

export const meQuestion = () => question(["me"], "GET /api/me", {});

export const overviewQuestion = () => question(["overview"], "GET /api/overview", {});

export const releasesQuestion = (place: ServicePlace) =>
  question(["releases", place], "GET /api/releases", { query: place });

export const ladderQuestion = (place: ServicePlace, metric: string | null, span: Span, zone: string) =>
  question(["ladder", place, metric, span, zone], "GET /api/ladder", {
    query: { ...place, ...span, metric: metric ?? "", zone },
  });

/** What is compared beside a service and a window. */
export interface ComparedReleases {
  release: string;
  against: string;
  againstService: string;
  againstEnvironment: string | undefined;
  metric: string;
  hold: readonly HeldValue[];
  by: string;
}

export function comparisonQuestion(place: ServicePlace, about: ComparedReleases, span: Span, zone: string) {
  const { hold, againstEnvironment, ...rest } = about;
  const query = { ...place, ...rest, ...span, zone, hold: hold.map(heldText) };
  return question(["comparison", place, about, span, zone], "GET /api/comparison", {
    query: againstEnvironment === undefined ? query : { ...query, againstEnvironment },
  });
}

export const keptComparisonQuestion = (id: string) =>
  question(["kept comparison", id], "GET /api/comparisons/{id}", { params: { id } });

export const driftQuestion = (place: ServicePlace) => question(["drift", place], "GET /api/drift", { query: place });

export const homeQuestion = () => question(["home"], "GET /api/home", {});

/** Of picks only those that it names tell its answers apart. @param picks what is chosen of those that it may name */
export function readingQuestion(text: string, span: Span, zone: string, picks: Chosen = NO_PICKS) {
  const named = picksIn(text).map((name) => [name, picks[name] ?? []] as const);
  const chosen = Object.fromEntries(named.map(([name, values]) => [name, [...values]]));
  return question(["reading", text, span, zone, ...(named.length > 0 ? [named] : [])], "GET /api/reading", {
    query: { text, ...span, zone, ...(named.length > 0 ? { picks: chosen } : {}) },
  });
}

const RAIL_GRAIN = MINUTE;

/** What the time rail spans beside a window, in whole minutes: it is not asked for anew with each move of the clock. */
export function railAround(span: Span, now: number): Span {
  const wide = railSpan(span, now);
  return {
    from: Math.floor(wide.from / RAIL_GRAIN) * RAIL_GRAIN,
    to: Math.ceil(wide.to / RAIL_GRAIN) * RAIL_GRAIN,
  };
}

export const railQuestion = (place: ServicePlace, around: Span) =>
  question(["rail", place, around], "GET /api/rail", { query: { ...place, ...around } });

export const metricsQuestion = () => question(["metrics"], "GET /api/catalogue", {});

export const instancesQuestion = (span: Span) => question(["instances", span], "GET /api/services", { query: span });

export const serviceMetricsQuestion = (place: ServicePlace) =>
  question(["service metrics", place], "GET /api/services/metrics", { query: place });

export const serviceSectionsQuestion = (place: ServicePlace) =>
  question(["service sections", place], "GET /api/services/sections", { query: place });

export const slowQuestion = () => question(["slow"], "GET /api/slow", {});

export const storeQuestion = (find = "", rows = COSTLIEST) =>
  question(["store", find, rows], "GET /api/store", { query: { find, rows } });

/** The part of the catalogue that begins after a name. */
export const instrumentsQuestion = (after = "") =>
  question(["instruments", after], "GET /api/instruments", { query: { after } });

export const findingsQuestion = () => question(["findings"], "GET /api/findings", {});

export const targetsQuestion = () => question(["targets"], "GET /api/targets", {});

export const sendersQuestion = () => question(["senders"], "GET /api/senders", {});

export const totalsQuestion = (texts: readonly string[], span: Span, zone: string) =>
  question(["totals", texts, span, zone], "POST /api/readings", {
    body: { readings: texts.map((text) => ({ text, every: span.to - span.from })), ...span, zone },
  });

export const sheetsQuestion = () => question(["sheets"], "GET /api/sheets", {});

export const sheetQuestion = (id: string) =>
  question(["sheet", id], "GET /api/sheets/{id}", { params: { id }, query: {} });

/** What somebody changed on a sheet and has not saved. */
export const sheetDraftQuestion = (id: string) =>
  question(["sheet draft", id], "GET /api/sheets/{id}/draft", { params: { id } });

/** The values that a pick can have. @param chosen what is chosen of the picks that it may name */
export const pickValuesQuestion = ({ source }: { source: PickSource }, chosen: Chosen) => {
  const picks = picksFor({ source }, chosen) as Record<string, string[]>;
  return question(["pick values", null, source, picks], "POST /api/picks/values", { body: { source, picks } });
};
