import { asItIs, compareQuantile } from "../../../src/core/compare/latency";
import { likeForLike } from "../../../src/core/compare/mix";
import { type Draw, draws } from "../../../src/core/compare/resample";
import { compareFailures } from "../../../src/core/compare/shares";
import { minutesOf } from "../../../src/core/compare/side";
import {
  COARSE,
  LIVELY,
  MIXED,
  type Simulated,
  simulate,
  type Traffic,
  USUAL,
} from "../../../src/core/compare/testing/simulate";
import { judge, type Verdict } from "../../../src/core/compare/verdict";

/** What the statistics say of traffic whose truth is known. */

const SLOWER_TOLERANCE = 0.05;
const FAILED_TOLERANCE = 0.001;
const Q = 0.95;

/** Minutes at which somebody looks. */
const once = (minutes: number) => [minutes];
const everyMinute = (minutes: number) => Array.from({ length: minutes - 1 }, (_, i) => i + 2);

interface Scene {
  name: string;
  traffic: Traffic;
  looks: number[];
  /** The ratio of the quantiles, and whether the mix is held equal. */
  truth: number;
  likeForLike?: boolean;
}

const SCENES: Scene[] = [
  {
    name: "no difference, lively, 4 and 12 calls a second, one look after an hour",
    traffic: { ...LIVELY, minutes: 60, rates: { candidate: 4, baseline: 12 } },
    looks: once(60),
    truth: 1,
  },
  {
    name: "the same, looked at every minute",
    traffic: { ...LIVELY, minutes: 60, rates: { candidate: 4, baseline: 12 } },
    looks: everyMinute(60),
    truth: 1,
  },
  {
    name: "no difference, lively, 0.2 and 1 calls a second, looked at every minute",
    traffic: { ...LIVELY, minutes: 60, rates: { candidate: 0.2, baseline: 1 } },
    looks: everyMinute(60),
    truth: 1,
  },
  {
    name: "no difference, lively, 50 calls a second each, looked at every minute",
    traffic: { ...LIVELY, minutes: 30 },
    looks: everyMinute(30),
    truth: 1,
  },
  {
    name: "10 % slower, 50 calls a second each, looked at every minute for 20",
    traffic: { ...USUAL, minutes: 20, slower: 1.1 },
    looks: everyMinute(20),
    truth: 1.1,
  },
  {
    name: "another mix and no difference, like for like, looked at every minute",
    traffic: {
      ...LIVELY,
      wander: { common: 0.1, own: 0 },
      routes: MIXED,
      minutes: 30,
      rates: { candidate: 10, baseline: 30 },
    },
    looks: everyMinute(30),
    truth: 1,
    likeForLike: true,
  },
  {
    name: "10 % slower in 14 coarse buckets, one look after 20 minutes",
    traffic: { ...USUAL, minutes: 20, slower: 1.1, edges: COARSE },
    looks: once(20),
    truth: 1.1,
  },
];

const samples = new Map<number, Draw[]>();
function samplesOf(minutes: number, count: number): Draw[] {
  const found = samples.get(minutes) ?? draws(minutes, count, 5);
  samples.set(minutes, found);
  return found;
}

interface Look {
  slower: Verdict;
  failing: Verdict;
  tooWide: boolean;
  covers: boolean;
}

function look({ candidate, baseline, byRoute }: Simulated, minutes: number, scene: Scene, count: number): Look {
  const wanted = Array.from({ length: minutes }, (_, i) => i);
  const [ours, theirs] = [minutesOf(candidate, wanted), minutesOf(baseline, wanted)];
  const drawn = samplesOf(minutes, count);
  const values = byRoute.map((sides, i) => ({
    value: String(i),
    candidate: minutesOf(sides.candidate, wanted),
    baseline: minutesOf(sides.baseline, wanted),
  }));
  const found = compareQuantile(scene.likeForLike ? likeForLike(values) : asItIs(ours), asItIs(theirs), Q, drawn);
  const failures = compareFailures(ours, theirs, drawn);
  if (!found || !failures) return { slower: "not enough yet", failing: "not enough yet", tooWide: false, covers: true };
  const { verdict, tooWide } = judge(found.change, SLOWER_TOLERANCE, found.buckets);
  const truth = scene.truth - 1;
  return {
    slower: verdict,
    failing: judge(failures.change, FAILED_TOLERANCE).verdict,
    tooWide,
    covers:
      found.change.low <= truth && found.change.high >= truth && failures.change.low <= 0 && failures.change.high >= 0,
  };
}

const isOne = (verdict: Verdict) => verdict === "worse" || verdict === "better";
const percent = (part: number) => `${(100 * part).toFixed(1)} %`;

/** Prints a row for each kind of traffic. */
export function holdAgainstTruth(pairs: number, resamples: number): void {
  process.stdout.write(
    `\n${pairs} pairs each, ${resamples} resamples, p95 at 5 % and failures at 0.1 points\n\n| traffic | called slower | called faster | called failing more or less | intervals that cover, at the last look | buckets too wide |\n|---|---|---|---|---|---|\n`,
  );
  for (const scene of SCENES) {
    const count = { slower: 0, faster: 0, failing: 0, covers: 0, tooWide: 0 };
    for (let seed = 1; seed <= pairs; seed++) {
      const all = simulate(scene.traffic, seed);
      const looks = scene.looks.map((minutes) => look(all, minutes, scene, resamples));
      const last = looks[looks.length - 1];
      if (looks.some(({ slower }) => slower === "worse")) count.slower++;
      if (looks.some(({ slower }) => slower === "better")) count.faster++;
      if (looks.some(({ failing }) => isOne(failing))) count.failing++;
      if (last.covers) count.covers++;
      if (last.tooWide) count.tooWide++;
    }
    const { slower, faster, failing, covers, tooWide } = count;
    const cells = [slower, faster, failing, covers, tooWide].map((found) => percent(found / pairs));
    process.stdout.write(`| ${[scene.name, ...cells].join(" | ")} |\n`);
  }
}
