import { DAY, HOUR, MINUTE } from "@/core/window/lengths";

/**
 * Fern & Anvil, a made-up tool-lending co-operative: who calls what, how often, and how long it takes. History is
 * written from this model, and the live programs behave by it.
 */

export const DEPOTS: readonly { name: string; weight: number }[] = [
  { name: "Brindle", weight: 0.3 },
  { name: "Candlewick", weight: 0.22 },
  { name: "Nether Pike", weight: 0.16 },
  { name: "Ostler Green", weight: 0.14 },
  { name: "Tolland Cross", weight: 0.1 },
  { name: "Marrow Quay", weight: 0.08 },
];

/** Buckets that the HTTP semantic conventions advise, seconds. */
export const HTTP_BOUNDS = [0.005, 0.01, 0.025, 0.05, 0.075, 0.1, 0.25, 0.5, 0.75, 1, 2.5, 5, 7.5, 10];

export const ENVIRONMENT = "production";

/** A lognormal latency: median in seconds and the spread of its logarithm. */
export interface Latency {
  median: number;
  sigma: number;
}

/** One kind of call to a service. */
export interface CallKind {
  method: string;
  route: string;
  /** Path to call in the live programs. */
  path: string;
  weight: number;
  /** Attributes beside the HTTP ones. */
  attributes: Record<string, string>;
  latency: Latency;
}

export type ServiceName = "catalogue" | "loans" | "estimator";

/** Releases of a service and when they served, in ms before now. */
export interface ReleasePlan {
  service: ServiceName;
  release: string;
  /** Started and ended this long ago; null still serves. */
  started: number;
  ended: number | null;
  /** Part of the service's calls while it serves, by how long ago. */
  share: (ago: number) => number;
  instances: number;
  /** Part of the calls that fail. */
  failing: number;
  /** Restarts every so many ms. */
  restarts?: number;
  /** How much longer its calls take than the model says. */
  slowness?: number;
}

export const CANDIDATE_AGE = HOUR;
const PAIR_AGE = 2 * DAY;

/** What is told minute by minute; before it, hour by hour. */
export const FINE_HISTORY = 14 * DAY;
export const WHOLE_HISTORY = 396 * DAY;

/** Releases of the months before, oldest first, each with how much slower or faster it was than those of today. */
const EARLIER: Record<ServiceName, readonly [release: string, slowness: number][]> = {
  loans: [
    ["4.9.0", 1.55],
    ["4.9.1", 1.5],
    ["4.10.0", 1.62],
    ["5.0.0", 1.2],
    ["5.0.1", 1.15],
    ["5.0.2", 1.12],
    ["5.1.0", 1.3],
    ["5.1.1", 1.05],
    ["5.2.0", 1.02],
    ["5.2.1", 1],
  ],
  estimator: [
    ["1.7.0", 1.4],
    ["1.8.0", 1.1],
    ["1.9.0", 0.95],
    ["1.9.2", 1],
  ],
  catalogue: [
    ["2.5.0", 1.1],
    ["2.6.0", 1.25],
    ["2.6.1", 1.08],
    ["2.7.0", 1],
    ["2.7.2", 1.02],
  ],
};

function earlierPlans(service: ServiceName): ReleasePlan[] {
  const releases = EARLIER[service];
  const each = (WHOLE_HISTORY - FINE_HISTORY) / releases.length;
  return releases.map(([release, slowness], i) => ({
    service,
    release,
    started: WHOLE_HISTORY - i * each,
    ended: WHOLE_HISTORY - (i + 1) * each,
    share: () => 1,
    instances: 1,
    failing: 0.003 + (i % 3) * 0.001,
    slowness,
  }));
}

/** All releases ever, those of the last fortnight last. */
export function allPlans(): ReleasePlan[] {
  return [...(Object.keys(EARLIER) as ServiceName[]).flatMap(earlierPlans), ...PLANS];
}

export const PLANS: readonly ReleasePlan[] = [
  {
    service: "loans",
    release: "5.2.2",
    started: 14 * DAY,
    ended: 3 * DAY,
    share: () => 1,
    instances: 4,
    failing: 0.004,
  },
  {
    service: "loans",
    release: "5.2.3",
    started: 3 * DAY,
    ended: 3 * DAY - 5 * HOUR,
    share: () => 1,
    instances: 4,
    failing: 0.0205,
  },
  {
    service: "loans",
    release: "5.2.4",
    started: 3 * DAY - 5 * HOUR,
    ended: null,
    share: (ago) => (ago > CANDIDATE_AGE ? 1 : 0.8),
    instances: 4,
    failing: 0.0039,
  },
  {
    service: "loans",
    release: "5.3.0",
    started: CANDIDATE_AGE,
    ended: null,
    share: () => 0.2,
    instances: 1,
    failing: 0.0041,
  },
  {
    service: "estimator",
    release: "1.9.4",
    started: 14 * DAY,
    ended: null,
    share: (ago) => (ago > PAIR_AGE ? 1 : 0.71),
    instances: 2,
    failing: 0.002,
  },
  {
    service: "estimator",
    release: "2.0.0",
    started: PAIR_AGE,
    ended: null,
    share: () => 0.29,
    instances: 1,
    failing: 0.002,
  },
  {
    service: "catalogue",
    release: "2.8.0",
    started: 14 * DAY,
    ended: 6 * DAY,
    share: () => 1,
    instances: 2,
    failing: 0.001,
  },
  {
    service: "catalogue",
    release: "2.8.1",
    started: 6 * DAY,
    ended: null,
    share: () => 1,
    instances: 2,
    failing: 0.001,
    restarts: 7 * HOUR,
  },
];

/** Calls per second of a service at the busiest time of a usual day. */
const BUSIEST: Record<ServiceName, number> = { loans: 44, estimator: 18, catalogue: 30 };

/** Calls per second of a service: low at night, high in the afternoon, quieter on Sundays. */
export function callsPerSecond(service: ServiceName, time: number): number {
  const date = new Date(time);
  const hour = date.getUTCHours() + date.getUTCMinutes() / 60;
  const daily = 0.5 + 0.5 * Math.sin(((hour - 8.5) / 24) * 2 * Math.PI);
  const weekly = date.getUTCDay() === 0 ? 0.7 : 1;
  const ripple = 1 + 0.04 * Math.sin(time / 1.7e6) + 0.03 * Math.sin(time / 4.1e5);
  return BUSIEST[service] * (0.35 + 0.65 * daily) * weekly * ripple;
}

const LOAN_ROUTES = [
  { method: "POST", route: "/loans", path: "/loans", weight: 0.3, latency: { median: 0.048, sigma: 1.0 } },
  { method: "GET", route: "/loans/{id}", path: "/loans/81273", weight: 0.35, latency: { median: 0.026, sigma: 1.15 } },
  {
    method: "POST",
    route: "/loans/{id}/extend",
    path: "/loans/81273/extend",
    weight: 0.25,
    latency: { median: 0.037, sigma: 1.1 },
  },
  {
    method: "POST",
    route: "/loans/{id}/end",
    path: "/loans/81273/end",
    weight: 0.1,
    latency: { median: 0.041, sigma: 1.05 },
  },
];
/** Extending a loan at Brindle in 5.3.0: what makes that release slow. */
const SLOW_EXTEND: Latency = { median: 0.31, sigma: 0.5 };

const TOOL_KINDS = ["hand", "garden", "powered"] as const;
const QUOTES: Record<(typeof TOOL_KINDS)[number], Latency> = {
  hand: { median: 0.018, sigma: 0.7 },
  garden: { median: 0.024, sigma: 0.7 },
  powered: { median: 0.11, sigma: 0.75 },
};
/** The newer estimator gets more of the slow quotes; for each kind of tool both are equally fast. */
const QUOTE_MIX: Record<string, readonly number[]> = { "1.9.4": [0.45, 0.35, 0.2], "2.0.0": [0.27, 0.23, 0.5] };

const SEARCHES = [
  { method: "GET", route: "/tools", path: "/tools", weight: 0.5, latency: { median: 0.031, sigma: 0.9 } },
  { method: "GET", route: "/tools/{id}", path: "/tools/4711", weight: 0.35, latency: { median: 0.012, sigma: 0.8 } },
  {
    method: "GET",
    route: "/tools/{id}/photo",
    path: "/tools/4711/photo",
    weight: 0.15,
    latency: { median: 0.058, sigma: 1.0 },
  },
];

/** The calls of a release with their shares and latencies. */
export function callKinds(service: ServiceName, release: string): CallKind[] {
  switch (service) {
    case "loans":
      return LOAN_ROUTES.flatMap((kind) =>
        DEPOTS.map((depot) => ({
          ...kind,
          weight: kind.weight * depot.weight,
          attributes: { depot: depot.name },
          latency:
            release === "5.3.0" && depot.name === "Brindle" && kind.route === "/loans/{id}/extend"
              ? SLOW_EXTEND
              : kind.latency,
        })),
      );
    case "estimator":
      return TOOL_KINDS.map((tool, i) => ({
        method: "POST",
        route: "/quotes",
        path: "/quotes",
        weight: (QUOTE_MIX[release] ?? QUOTE_MIX["1.9.4"])[i],
        attributes: { "tool.kind": tool },
        latency: QUOTES[tool],
      }));
    case "catalogue":
      return SEARCHES.map((kind) => ({ ...kind, attributes: {} }));
  }
}

/** Memory of an instance in bytes, `up` ms after its start: catalogue 2.8.1 leaks. */
export function memoryOf(release: string, up: number): number {
  const base = 182 * 1024 * 1024;
  return release === "2.8.1" ? base + (up / HOUR) * 96 * 1024 * 1024 : base + 6 * 1024 * 1024 * Math.sin(up / 9e5);
}

/** How much slower an instance answers `up` ms after its start; a leaking one little at first, much before it restarts. */
export function slowdown(plan: ReleasePlan, up: number): number {
  const leaking = plan.restarts ? 1 + 1.6 * Math.max(0, up / plan.restarts - 0.7) : 1;
  return leaking * (plan.slowness ?? 1);
}

/** Who an instance of a release is, in its history as in its live program, which goes on as if it had been started anew. */
export function whoSends(service: string, release: string, instance: number): Record<string, string> {
  return {
    "service.name": service,
    "service.version": release,
    "service.instance.id": `${service}-${release}-${instance}`,
    "deployment.environment.name": ENVIRONMENT,
    "telemetry.sdk.name": "opentelemetry",
    "telemetry.sdk.language": "nodejs",
    "telemetry.sdk.version": "2.12.0",
  };
}

/** Reminders that are worked off, each with a call of the courier company. */
export const REMINDERS_PER_SECOND = 3;

/**
 * The part of calls that the courier company does not answer: most of them from 03:10 to 03:24, UTC, every night, and 83 %
 * of an hour six days ago.
 *
 * @param ago how long ago it is, ms
 */
export function courierFailing(time: number, ago: number): number {
  const date = new Date(time);
  const minute = date.getUTCHours() * 60 + date.getUTCMinutes();
  if (minute >= 190 && minute < 204) return 0.9;
  return ago > 6 * DAY - HOUR && ago <= 6 * DAY ? 0.83 : 0.01;
}

/** Reminders that wait on any day: some forty, rising and falling over hours. */
export function queueAtRest(time: number): number {
  return 40 + 9 * Math.sin(time / 2.3e6);
}

/** Reminders that wait because of the weekend: from Monday at 08:00, UTC, they build up for half an hour and are worked off by ten. */
export function queueBuiltUp(time: number): number {
  const date = new Date(time);
  if (date.getUTCDay() !== 1) return 0;
  const since = (date.getUTCHours() - 8) * HOUR + date.getUTCMinutes() * MINUTE + date.getUTCSeconds() * 1000;
  const [rise, end] = [30 * MINUTE, 2 * HOUR];
  if (since < 0 || since >= end) return 0;
  return 1400 * (since < rise ? since / rise : (end - since) / (end - rise));
}
