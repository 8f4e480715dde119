import { uniformFloat64 } from "pure-rand/distribution/uniformFloat64";
import { xoroshiro128plus } from "pure-rand/generator/xoroshiro128plus";
import { cellOf, type Side } from "../side";

/** Traffic that is made up, of which the truth is known: for holding the statistics against it. */
export interface Traffic {
  minutes: number;
  /** Calls a second of each side. */
  rates: { candidate: number; baseline: number };
  /** Kinds of calls: their part of all calls on each side, their median in ms, and how much they scatter (of the logarithm). */
  routes: { weight: number; candidateWeight?: number; median: number; scatter: number }[];
  /** By how much the candidate is slower: 1.1 is 10 %. */
  slower: number;
  /** Shares of failed calls. */
  failed: { candidate: number; baseline: number };
  /** How much calls a minute scatter beyond chance (of the logarithm). */
  bursts: number;
  /** How much the level of latency wanders from minute to minute: in common, and each side for itself (of the logarithm). */
  wander: { common: number; own: number };
  /** How much of the wandering a minute keeps of the one before. */
  memory: number;
  /** How much the level follows the time of the day (of the logarithm). */
  rhythm: number;
  edges: Float64Array;
}

/** Exponential buckets of scale 4: what an SDK that has 160 of them comes to where most calls take some ms to a second. */
export const FINE = Float64Array.from({ length: 220 }, (_, i) => 2 ** (i / 16));
/** The bounds that the semantic conventions advise for calls, ms. */
export const COARSE = Float64Array.of(
  0,
  5,
  10,
  25,
  50,
  75,
  100,
  250,
  500,
  750,
  1000,
  2500,
  5000,
  7500,
  10_000,
  Number.POSITIVE_INFINITY,
);

export const USUAL: Traffic = {
  minutes: 30,
  rates: { candidate: 50, baseline: 50 },
  routes: [{ weight: 1, median: 60, scatter: 0.6 }],
  slower: 1,
  failed: { candidate: 0.004, baseline: 0.004 },
  bursts: 0,
  wander: { common: 0, own: 0 },
  memory: 0,
  rhythm: 0,
  edges: FINE,
};

/** Bursty, with a level that wanders in common and a little by itself, a rhythm of the day, and two kinds of calls. */
export const LIVELY: Traffic = {
  ...USUAL,
  bursts: 0.3,
  wander: { common: 0.1, own: 0.02 },
  memory: 0.8,
  rhythm: 0.2,
  routes: [
    { weight: 0.7, median: 40, scatter: 0.6 },
    { weight: 0.3, median: 120, scatter: 0.5 },
  ],
};

/** Another mix: what is always slow is a fifth of the baseline's calls, and half of the candidate's. */
export const MIXED: Traffic["routes"] = [
  { weight: 0.8, candidateWeight: 0.5, median: 40, scatter: 0.5 },
  { weight: 0.2, candidateWeight: 0.5, median: 200, scatter: 0.5 },
];

/** Random numbers of several kinds from one seed. */
class Chance {
  private readonly source;
  private spare: number | null = null;

  constructor(seed: number) {
    this.source = xoroshiro128plus(seed);
  }

  even(): number {
    return uniformFloat64(this.source);
  }

  /** Box and Muller 1958. */
  normal(): number {
    if (this.spare !== null) {
      const { spare } = this;
      this.spare = null;
      return spare;
    }
    const radius = Math.sqrt(-2 * Math.log(1 - this.even()));
    const angle = 2 * Math.PI * this.even();
    this.spare = radius * Math.sin(angle);
    return radius * Math.cos(angle);
  }

  /** A count that is as likely as chance makes it; of many, the normal stands for it. */
  poisson(mean: number): number {
    if (mean > 200) return Math.max(0, Math.round(mean + Math.sqrt(mean) * this.normal()));
    const least = Math.exp(-mean);
    let count = 0;
    for (let product = this.even(); product > least; product *= this.even()) count++;
    return count;
  }
}

/** What both sides would have stored, minute by minute; with routes, each of them for itself too. */
export interface Simulated {
  candidate: Side;
  baseline: Side;
  byRoute: { candidate: Side; baseline: Side }[];
}

function emptySide(edges: Float64Array, minutes: number): Side {
  return {
    edges,
    known: new Uint8Array(edges.length).fill(1),
    logarithmic: edges === FINE,
    minutes,
    below: new Float64Array(edges.length * minutes),
    calls: new Float64Array(minutes),
    failed: new Float64Array(minutes),
  };
}

function accumulate({ edges, minutes, below }: Side): void {
  for (let edge = 1; edge < edges.length; edge++)
    for (let minute = 0; minute < minutes; minute++)
      below[edge * minutes + minute] += below[(edge - 1) * minutes + minute];
}

export function simulate(traffic: Traffic, seed: number): Simulated {
  const chance = new Chance(seed);
  const { minutes, routes, edges, wander, memory } = traffic;
  const whole = { candidate: emptySide(edges, minutes), baseline: emptySide(edges, minutes) };
  const byRoute = routes.map(() => ({ candidate: emptySide(edges, minutes), baseline: emptySide(edges, minutes) }));
  const fresh = Math.sqrt(1 - memory * memory);
  const level = { common: chance.normal(), candidate: chance.normal(), baseline: chance.normal() };
  for (let minute = 0; minute < minutes; minute++) {
    for (const key of ["common", "candidate", "baseline"] as const)
      level[key] = memory * level[key] + fresh * chance.normal();
    const hour = traffic.rhythm * Math.sin((2 * Math.PI * minute) / 1440);
    for (const name of ["candidate", "baseline"] as const) {
      const shift = hour + wander.common * level.common + wander.own * level[name];
      const times = Math.exp(shift) * (name === "candidate" ? traffic.slower : 1);
      const busy = Math.exp(traffic.bursts * chance.normal());
      routes.forEach(({ weight, candidateWeight = weight, median, scatter }, route) => {
        const part = name === "candidate" ? candidateWeight : weight;
        const calls = chance.poisson(60 * traffic.rates[name] * busy * part);
        const own = byRoute[route][name];
        for (let i = 0; i < calls; i++) {
          const value = median * times * Math.exp(scatter * chance.normal());
          const cell = cellOf(edges, value) * minutes + minute;
          own.below[cell]++;
          whole[name].below[cell]++;
          if (chance.even() < traffic.failed[name]) {
            own.failed[minute]++;
            whole[name].failed[minute]++;
          }
        }
        own.calls[minute] += calls;
        whole[name].calls[minute] += calls;
      });
    }
  }
  for (const side of [whole.candidate, whole.baseline, ...byRoute.flatMap((one) => [one.candidate, one.baseline])])
    accumulate(side);
  return { ...whole, byRoute };
}
