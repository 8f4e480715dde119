import type { ServiceMetric } from "../../api/services";
import type { MetricIdentity } from "../../metric/model";
import { canAnswer } from "../../reading/aggregations";
import { readingStructure } from "../../reading/language/grammar";
import { attributeText, metricText } from "../../reading/language/quote";
import { measuresOf } from "../../reading/language/tree";
import { type Work, written } from "../../service/work";
import type { LookName } from "../looks";
import { lookAs } from "../looks";
import type { Band, Plate, Sheet } from "../sheet";
import { SHEET_LIMITS } from "../sheet";
import { READY } from ".";
import type { ReadyBand, ReadyPlate, ReadySheet } from "./definition";

/** Ready sheets filled in with the metrics that a service sends. */

export interface FilledPlate {
  title: string;
  texts: string[];
  as: LookName;
  settings: Readonly<Record<string, unknown>>;
  unit: string;
  decimals: number | null;
}

export interface FilledBand {
  title: string;
  section: string;
  work: Work | null;
  plates: FilledPlate[];
}

/** What every service has to tell its series apart, also where a metric's points do not have it. */
const ALWAYS = "release";

const MAX_OTHERS = 6;

function identityOf({ name, kind, unit, monotonic }: ServiceMetric): MetricIdentity {
  return { name, kind: kind as MetricIdentity["kind"], unit, monotonic, temporality: "cumulative" };
}

/** Whether a metric is of a kind that a reading can be asked of. */
function answers(metric: ServiceMetric, text: string): boolean {
  const identity = identityOf(metric);
  return measuresOf(readingStructure(text).expression).every(({ aggregation }) => canAnswer(aggregation, identity));
}

/** What to split a metric by so that it says something: an outcome or state before all else. */
function tellingPart({ attributes }: ServiceMetric): string {
  const telling = ["outcome", "state", "queue", "jvm.memory.pool.name", "v8js.heap.space.name", "system.memory.state"];
  return telling.find((one) => attributes.includes(one)) ?? ALWAYS;
}

function plain(title: string, text: string): FilledPlate {
  return { title, texts: [text], as: "lines", settings: {}, unit: "", decimals: null };
}

/**
 * The first question to ask a metric of a service.
 *
 * @param where the tests that keep it to the service
 */
export function firstPlate(metric: ServiceMetric, where: string): FilledPlate {
  const name = metricText(metric.name);
  const by = tellingPart(metric);
  const tail = `of ${name} where ${where} by ${by === ALWAYS ? by : attributeText(by)}`;
  if (metric.kind === "histogram" || metric.kind === "exponential") return plain(metric.name, `p95 ${tail}`);
  if (metric.kind === "sum" && metric.monotonic) return plain(metric.name, `rate ${tail}`);
  if (metric.kind === "summary") return plain(metric.name, `mean ${tail}`);
  return plain(metric.name, `${metric.unit === "By" ? "max" : "mean"} ${tail}`);
}

function filledPlate(
  plate: ReadyPlate,
  { of = [], work }: ReadyBand,
  known: ReadonlyMap<string, ServiceMetric>,
  where: string,
  slow: Readonly<Record<Work, number>>,
): FilledPlate[] {
  const metric = (plate.of ?? of).map((name) => known.get(name)).find((one) => one !== undefined);
  if (!metric) return [];
  if (plate.needs !== undefined && !metric.attributes.includes(plate.needs)) return [];
  const by = plate.by?.find((one) => one === ALWAYS || metric.attributes.includes(one));
  if (plate.by && by === undefined) return [];
  const parts: Record<string, string> = {
    metric: metricText(metric.name),
    where,
    by: by === undefined || by === ALWAYS ? ALWAYS : attributeText(by),
    slow: work ? written(slow[work]) : "",
  };
  const texts = [plate.text].flat().map((text) => text.replace(/\{(\w+)\}/g, (_, part: string) => parts[part]));
  // A sender that uses the name for something else gets what its own kind is asked.
  if (!texts.every((text) => answers(metric, text))) return plate.as ? [] : [firstPlate(metric, where)];
  const { title, as = "lines", settings = {}, unit = "", decimals = null } = plate;
  return [{ title, texts, as, settings, unit, decimals }];
}

/** Names that a ready sheet asks for. */
function namedIn(sheets: readonly ReadySheet[]): Set<string> {
  const bands = sheets.flatMap((sheet) => sheet.bands);
  return new Set(bands.flatMap(({ of = [], plates }) => [...of, ...plates.flatMap((plate) => plate.of ?? [])]));
}

const NAMED = namedIn(READY);

/** The metrics that a band takes by how they are called: those that no ready sheet names, and that no band before it takes. */
function othersOf(metrics: readonly ServiceMetric[]): { by: Map<ReadyBand, ServiceMetric[]>; own: ServiceMetric[] } {
  const by = new Map<ReadyBand, ServiceMetric[]>();
  const bands = READY.flatMap((sheet) => sheet.bands).filter(({ others }) => others !== undefined);
  const own: ServiceMetric[] = [];
  for (const metric of metrics) {
    if (NAMED.has(metric.name)) continue;
    const band = bands.find(({ others }) => others!.test(metric.name));
    if (band) by.set(band, [...(by.get(band) ?? []), metric]);
    else own.push(metric);
  }
  return { by, own };
}

/** A ready sheet with what of it a service sends. */
export interface FilledSheet {
  ready: ReadySheet;
  /** Those of which something arrives. */
  bands: FilledBand[];
}

/**
 * Every ready sheet with what a service sends of it, and the metrics that none of them knows: its own instruments.
 *
 * @param sent what the service sends
 * @param where the tests that keep a reading to it
 * @param slow from when on work is slow, s
 */
export function filledSheets(
  sent: readonly ServiceMetric[],
  where: string,
  slow: Readonly<Record<Work, number>>,
): { sheets: FilledSheet[]; own: ServiceMetric[] } {
  const known = new Map(sent.map((metric) => [metric.name, metric]));
  const { by: others, own } = othersOf([...known.values()]);
  const filled = (band: ReadyBand): FilledBand[] => {
    const further = (others.get(band) ?? []).slice(0, MAX_OTHERS).map((metric) => firstPlate(metric, where));
    const plates = [...band.plates.flatMap((plate) => filledPlate(plate, band, known, where, slow)), ...further];
    const { title, section = title, work = null } = band;
    return plates.length === 0 ? [] : [{ title, section, work, plates }];
  };
  return { sheets: READY.map((ready) => ({ ready, bands: ready.bands.flatMap(filled) })), own };
}

/** Plates laid out in bands, as even as they can be. */
function bandsOf({ title, plates }: FilledBand, place: number): Band[] {
  const rows = Math.ceil(plates.length / SHEET_LIMITS.plates);
  const each = Math.ceil(plates.length / rows);
  return Array.from({ length: rows }, (_, row) => ({
    id: `band-${place + 1}-${row + 1}`,
    title: row === 0 ? title : `${title}, ${row + 1}`,
    folded: false,
    plates: plates.slice(row * each, (row + 1) * each).map(
      ({ title: words, texts, as, settings, unit, decimals }, i): Plate => ({
        id: `plate-${place + 1}-${row + 1}-${i + 1}`,
        title: words,
        width: 2,
        holds: "readings",
        readings: texts.map((text) => ({ text, names: "", unit, decimals })),
        look: lookAs(as, settings),
      }),
    ),
  }));
}

/** A ready sheet for the service at hand, with a pick for each other service that sends the same. */
export function readySheet(
  ready: ReadySheet,
  metrics: readonly ServiceMetric[],
  { service, environment }: { service: string; environment: string },
  slow: Readonly<Record<Work, number>>,
): Sheet {
  const within = environment === "" ? "" : " and environment is <environment>";
  const { sheets } = filledSheets(metrics, `service is <service>${within}`, slow);
  const bands = sheets.find((one) => one.ready === ready)?.bands ?? [];
  return {
    name: `${ready.name} of ${service}`.slice(0, 120),
    purpose: ready.purpose,
    tags: [ready.id],
    readers: [],
    picks: [
      {
        name: "service",
        words: "service",
        source: { of: "services" },
        many: false,
        all: false,
        preset: [service],
      },
      ...(environment === ""
        ? []
        : [
            {
              name: "environment",
              words: "environment",
              source: { of: "environments" } as const,
              many: false,
              all: true,
              preset: [environment],
            },
          ]),
    ],
    bands: bands.flatMap(bandsOf).slice(0, SHEET_LIMITS.bands),
  };
}
