import { Random } from "./random";

/**
 * What services did, by chance: kinds, layouts that change, lives, two writers, lateness and repeats; and the requests in
 * which a sender would tell it. Nothing here is shared with the product.
 */

export interface Export {
  /** The interval that it covers, Unix ms, and what was observed in it. */
  from: number;
  to: number;
  observed: number[];
}

/** A process from its start to its end. */
export interface Life {
  series: string;
  start: number;
  exports: Export[];
}

export interface Scenario {
  name: string;
  kind: "counter" | "histogram" | "exponential" | "gauge";
  temporality: 1 | 2;
  /** Whether two processes may write one series at the same time. */
  twins: boolean;
  lives: Life[];
  requests: object[];
  from: number;
  to: number;
  /** A window within, and how wide the steps are in which it is asked. */
  part: { from: number; to: number };
  every: string;
}

const BOUNDS = [[1, 5, 25, 125], [1, 5, 25, 125, 625], [5, 125], [2, 10, 50], []];

function observations(random: Random, kind: Scenario["kind"]): number[] {
  const count = random.chance(0.2) ? 0 : random.between(1, kind === "gauge" ? 1 : 5);
  return Array.from({ length: count }, () => {
    if (kind === "counter") return 1;
    if (kind === "gauge") return random.between(-500, 500) / 4;
    return random.chance(0.3) ? random.between(1, 700) : 2 ** (random.next() * 16 - 6);
  });
}

function livesOf(random: Random, series: string, kind: Scenario["kind"], begin: number, twins: boolean): Life[] {
  const lives: Life[] = [];
  for (let writer = twins ? 2 : 1; writer > 0; writer--) {
    let at = begin + random.between(0, 60) * 1000 + writer * 7;
    for (let life = random.between(1, 3); life > 0; life--) {
      const start = at;
      const exports: Export[] = [];
      for (let i = random.between(1, 7); i > 0; i--) {
        const to = at + random.between(2, 25) * 1000;
        exports.push({ from: at, to, observed: observations(random, kind) });
        at = to;
      }
      lives.push({ series, start, exports });
      at += random.between(1, 40) * 1000;
    }
  }
  return lives;
}

const nanos = (ms: number) => `${ms}000000`;

function explicit(observed: readonly number[], bounds: readonly number[]): object {
  const counts = new Array<number>(bounds.length + 1).fill(0);
  for (const value of observed) {
    const place = bounds.findIndex((bound) => value <= bound);
    counts[place < 0 ? bounds.length : place]++;
  }
  return { explicitBounds: bounds, bucketCounts: counts.map(String) };
}

function exponential(observed: readonly number[], finest: number): object {
  let scale = finest;
  const index = (value: number) => Math.ceil(Math.log2(value) * 2 ** scale) - 1;
  const width = () => {
    const all = observed.map(index);
    return all.length === 0 ? 0 : Math.max(...all) - Math.min(...all) + 1;
  };
  while (width() > 160) scale--;
  const all = observed.map(index);
  const offset = all.length === 0 ? 0 : Math.min(...all);
  const counts = new Array<number>(width()).fill(0);
  for (const i of all) counts[i - offset]++;
  return { scale, zeroCount: "0", positive: { offset, bucketCounts: counts.map(String) } };
}

function pointOf(
  random: Random,
  { kind, temporality }: Scenario,
  life: Life,
  i: number,
  bounds: readonly number[],
): object {
  const told = temporality === 1 ? [life.exports[i]] : life.exports.slice(0, i + 1);
  const observed = told.flatMap((one) => one.observed);
  const head = {
    timeUnixNano: nanos(life.exports[i].to),
    startTimeUnixNano: nanos(temporality === 1 ? life.exports[i].from : life.start),
    attributes: [{ key: "k", value: { stringValue: life.series } }],
  };
  if (kind === "counter") return { ...head, asInt: String(observed.length) };
  const ends =
    observed.length > 0 && random.chance(0.7) ? { min: Math.min(...observed), max: Math.max(...observed) } : {};
  const measured = { ...head, ...ends, count: String(observed.length), sum: observed.reduce((a, b) => a + b, 0) };
  if (kind === "histogram") return { ...measured, ...explicit(observed, bounds) };
  return { ...measured, ...exponential(observed, random.of([3, 8, 20])) };
}

function metricOf({ name, kind, temporality }: Scenario, dataPoints: readonly object[]): object {
  const data = { aggregationTemporality: temporality, dataPoints };
  if (kind === "gauge") return { name, unit: "s", gauge: { dataPoints } };
  if (kind === "counter") return { name, unit: "{call}", sum: { ...data, isMonotonic: true } };
  return { name, unit: "s", [kind === "histogram" ? "histogram" : "exponentialHistogram"]: data };
}

function requestOf(scenario: Scenario, dataPoints: readonly object[]): object {
  const resource = { attributes: [{ key: "service.name", value: { stringValue: "fuzz" } }] };
  return { resourceMetrics: [{ resource, scopeMetrics: [{ metrics: [metricOf(scenario, dataPoints)] }] }] };
}

function gaugePoints(life: Life): object[] {
  return life.exports.flatMap(({ to, observed }) =>
    observed.map((asDouble) => ({
      asDouble,
      timeUnixNano: nanos(to),
      attributes: [{ key: "k", value: { stringValue: life.series } }],
    })),
  );
}

/** A scenario of a seed. @param now Unix ms */
export function scenarioOf(seed: number, now: number): Scenario {
  const random = new Random(seed);
  const kind = random.of(["counter", "histogram", "exponential", "gauge"] as const);
  const begin = Math.floor((now - random.between(20, random.chance(0.2) ? 2800 : 150) * 60_000) / 1000) * 1000;
  const twins = kind !== "gauge" && random.chance(0.25);
  const temporality = random.of([1, 2] as const);
  const series = Array.from({ length: random.between(1, 4) }, (_, i) => `s${i}`);
  const lives = series.flatMap((one) => livesOf(random, one, kind, begin, twins));
  const last = Math.max(...lives.flatMap(({ exports }) => exports.map(({ to }) => to)));
  const whole = last + 1000 - begin;
  const scenario: Scenario = {
    name: `fuzz.${seed}`,
    kind,
    temporality,
    twins,
    lives,
    requests: [],
    from: begin,
    to: last + 1000,
    part: { from: begin + Math.floor(whole * 0.3), to: begin + Math.ceil(whole * 0.8) },
    every: random.of(["7s", "10s", "1m", "10m"]),
  };
  const points = lives.flatMap((life) => {
    if (kind === "gauge") return gaugePoints(life);
    let bounds = random.of(BOUNDS);
    return life.exports.map((_, i) => {
      if (random.chance(0.2)) bounds = random.of(BOUNDS);
      return pointOf(random, scenario, life, i, bounds);
    });
  });
  // Some come late, some twice, and all in requests of any size.
  const sent = random.chance(0.5) ? points : random.shuffled(points);
  const repeated = [...sent, ...sent.filter(() => random.chance(0.15))];
  for (let at = 0; at < repeated.length; ) {
    const size = random.chance(0.4) ? repeated.length : random.between(1, 6);
    scenario.requests.push(requestOf(scenario, repeated.slice(at, at + size)));
    at += size;
  }
  return scenario;
}
