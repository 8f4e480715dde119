import type { ServiceMetric } from "../api/services";
import { metricText, serviceTests } from "../reading/language/quote";

/**
 * What is always worth seeing of a service, from the names of the OpenTelemetry semantic conventions, with no set-up.
 * A section without data is left out.
 */

/** Kinds of work, each with its own idea of what is slow. */
export const WORK = ["calls", "outgoing", "database", "messages"] as const;
export type Work = (typeof WORK)[number];

/** What counts as slow until someone says otherwise, s. */
export const DEFAULT_SLOW: Record<Work, number> = { calls: 0.5, outgoing: 1, database: 0.1, messages: 5 };

export interface SectionPlate {
  title: string;
  reading: string;
}

export interface Section {
  title: string;
  /** The kind of work whose bound for "slow" applies; null where there is none. */
  work: Work | null;
  plates: SectionPlate[];
}

/** A service in an environment. */
export interface ServicePlace {
  service: string;
  environment: string;
}

/** A duration as readings write it: in the largest unit that leaves a whole number. */
export function written(seconds: number): string {
  if (Number.isInteger(seconds)) return `${seconds} s`;
  const ms = seconds * 1000;
  return Math.abs(ms - Math.round(ms)) < 1e-9 ? `${Math.round(ms)} ms` : `${seconds} s`;
}

interface Timed {
  work: Work;
  title: string;
  /** Histograms of durations, the one that is best first. */
  metrics: readonly string[];
  /** What to split by, the first that its points have. */
  by: readonly string[];
  byTitle: string;
}

const TIMED: readonly Timed[] = [
  {
    work: "calls",
    title: "Calls",
    metrics: [
      "http.server.request.duration",
      "rpc.server.call.duration",
      "rpc.server.duration",
      "http.server.duration",
    ],
    by: ["http.route", "rpc.method", "http.request.method"],
    byTitle: "route",
  },
  {
    work: "outgoing",
    title: "Outgoing calls",
    metrics: [
      "http.client.request.duration",
      "rpc.client.call.duration",
      "rpc.client.duration",
      "http.client.duration",
    ],
    by: ["server.address", "rpc.service", "http.request.method"],
    byTitle: "place called",
  },
  {
    work: "database",
    title: "Database",
    metrics: ["db.client.operation.duration"],
    by: ["db.operation.name", "db.collection.name", "db.namespace"],
    byTitle: "operation",
  },
  {
    work: "messages",
    title: "Messages",
    metrics: ["messaging.process.duration", "messaging.client.operation.duration"],
    by: ["messaging.destination.name", "messaging.operation.name"],
    byTitle: "destination",
  },
];

/** Failed calls: those of an error type, or answered with 5xx. */
const FAILED = "error.type is there";

function timedSection(
  { work, title, metrics, by, byTitle }: Timed,
  known: ReadonlyMap<string, ServiceMetric>,
  place: ServicePlace,
  slow: number,
): Section | null {
  const metric = metrics.map((name) => known.get(name)).find((one) => one !== undefined);
  if (!metric) return null;
  const name = metricText(metric.name);
  const where = `where ${serviceTests(place.service, place.environment)}`;
  const split = by.find((attribute) => metric.attributes.includes(attribute));
  const plates: SectionPlate[] = [
    { title: "How many", reading: `rate of ${name} ${where} by release` },
    { title: "How long, p95", reading: `p95 of ${name} ${where} by release` },
    { title: "How many are slow", reading: `share over ${written(slow)} of ${name} ${where} by release` },
  ];
  if (metric.attributes.includes("error.type"))
    plates.push({ title: "How many fail", reading: `share of ${name} that ${FAILED} ${where} by release` });
  if (split) {
    plates.push(
      { title: `How many, by ${byTitle}`, reading: `rate of ${name} ${where} by ${split} top 6` },
      { title: `How long, by ${byTitle}`, reading: `p95 of ${name} ${where} by ${split} top 6` },
    );
  }
  return { title, work, plates };
}

interface Plain {
  title: string;
  /** Which metrics belong there, by name. */
  takes: (name: string) => boolean;
}

const starts =
  (...beginnings: string[]) =>
  (name: string) =>
    beginnings.some((beginning) => name.startsWith(beginning));

const PLAIN: readonly Plain[] = [
  { title: "Queues", takes: (name) => /(^|[._])queue([._]|$)/.test(name) || name.startsWith("messaging.client.") },
  { title: "Cache", takes: (name) => /(^|[._])cache([._]|$)/.test(name) },
  {
    title: "Runtime",
    takes: starts("jvm.", "v8js.", "nodejs.", "go.", "dotnet.", "cpython.", "process.runtime.", "python."),
  },
  { title: "Process", takes: starts("process.") },
  { title: "Host", takes: starts("system.", "host.", "container.", "k8s.") },
];

/** What to split a metric by so that it says something: an outcome or state before all else. */
function splitOf({ attributes }: ServiceMetric): string {
  const telling = ["outcome", "state", "queue", "jvm.memory.pool.name", "v8js.heap.space.name", "system.memory.state"];
  return telling.find((one) => attributes.includes(one)) ?? "release";
}

/** The first question to ask a metric of a service. */
function plainPlate(metric: ServiceMetric, place: ServicePlace): SectionPlate {
  const name = metricText(metric.name);
  const tail = `where ${serviceTests(place.service, place.environment)} by ${splitOf(metric)}`;
  const title = metric.name;
  if (metric.kind === "histogram" || metric.kind === "exponential") return { title, reading: `p95 of ${name} ${tail}` };
  if (metric.kind === "sum" && metric.monotonic) return { title, reading: `rate of ${name} ${tail}` };
  if (metric.kind === "summary") return { title, reading: `mean of ${name} ${tail}` };
  return { title, reading: `${metric.unit === "By" ? "max" : "mean"} of ${name} ${tail}` };
}

const MAX_PLAIN = 6;

/**
 * The sections of a service's page.
 *
 * @param slow what counts as slow, by kind of work, s
 */
export function sectionsOf(
  metrics: readonly ServiceMetric[],
  place: ServicePlace,
  slow: Readonly<Record<Work, number>>,
): Section[] {
  const known = new Map(metrics.map((metric) => [metric.name, metric]));
  const timed = TIMED.map((one) => timedSection(one, known, place, slow[one.work])).filter((one) => one !== null);
  const taken = new Set(TIMED.flatMap((one) => one.metrics));
  const plain: Section[] = [];
  for (const { title, takes } of PLAIN) {
    const own = metrics.filter(({ name }) => !taken.has(name) && takes(name));
    for (const { name } of own) taken.add(name);
    const names = [...new Map(own.map((metric) => [metric.name, metric])).values()].slice(0, MAX_PLAIN);
    if (names.length > 0) plain.push({ title, work: null, plates: names.map((metric) => plainPlate(metric, place)) });
  }
  const rest = [...new Map(metrics.filter(({ name }) => !taken.has(name)).map((one) => [one.name, one])).values()];
  const own: Section[] =
    rest.length > 0
      ? [
          {
            title: "Its own instruments",
            work: null,
            plates: rest.slice(0, MAX_PLAIN).map((one) => plainPlate(one, place)),
          },
        ]
      : [];
  return [...timed.slice(0, 1), ...own, ...timed.slice(1), ...plain];
}
