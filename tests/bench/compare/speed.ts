import { compareAlike, compareSides, USUAL_TOLERANCES } from "../../../src/core/compare/comparison";
import { explain, type Tuple } from "../../../src/core/compare/explain";
import { asItIs, compareQuantile } from "../../../src/core/compare/latency";
import { likeForLike } from "../../../src/core/compare/mix";
import { QuantileReader, valueAt } from "../../../src/core/compare/quantileReader";
import { asSeen, type Draw, draws } from "../../../src/core/compare/resample";
import type { Side } from "../../../src/core/compare/side";
import { simulate, USUAL } from "../../../src/core/compare/testing/simulate";

/** How long a comparison takes against the direct way: each resample's buckets added up, then searched. */

const MINUTES = 360;
const VALUES = 40;
const RESAMPLES = 1000;
/** The direct way is timed on fewer resamples: all take the same. */
const DIRECT = 20;
/** As a page takes for what it tells beside the figures. */
const FEWER = 400;
const QUANTILES = [0.5, 0.95, 0.99];

/** The minutes of a sample, one by one. */
function minutesIn({ minutes, starts, length, rest }: Draw): number[] {
  return [...starts].flatMap((start, i) =>
    Array.from({ length: i === starts.length - 1 ? rest : length }, (_, k) => (start + k) % minutes),
  );
}

function directly(side: Side, minutes: readonly number[], q: number): number {
  const counts = new Float64Array(side.edges.length);
  for (let edge = 0; edge < counts.length; edge++)
    for (const minute of minutes) counts[edge] += side.below[edge * side.minutes + minute];
  const total = counts[counts.length - 1];
  const cell = counts.findIndex((count) => count >= q * total * (1 - 1e-12));
  return valueAt(side, { cell, part: (q * total - counts[cell - 1]) / (counts[cell] - counts[cell - 1]) });
}

/** Both ways have to find the same, or neither's time counts. @throws Error where they do not */
function checkEqual(side: Side, drawn: readonly Draw[]): void {
  const reader = new QuantileReader([side]);
  for (const draw of drawn)
    for (const q of QUANTILES) {
      const [one, other] = [valueAt(side, reader.place(q, draw, [1])!), directly(side, minutesIn(draw), q)];
      if (Math.abs(one - other) > 1e-9 * other) throw new Error(`${one} is not ${other}`);
    }
}

/** Calls by the values of three attributes, one of which has many. */
function tuplesOf(byRoute: ReturnType<typeof simulate>["byRoute"]): Tuple[] {
  return byRoute.flatMap(({ candidate, baseline }, route) =>
    Array.from({ length: 6 }, (_, i) => {
      const part = ({ calls }: Side) => ({
        calls: calls.map((count) => count / 6),
        hits: calls.map((count) => count / 120),
      });
      return {
        values: [`route ${route}`, `depot ${i % 3}`, `kind ${i % 2}`],
        candidate: part(candidate),
        baseline: part(baseline),
      };
    }),
  );
}

export function timeComparison(): void {
  const routes = Array.from({ length: VALUES }, (_, i) => ({ weight: 1 / VALUES, median: 30 + 5 * i, scatter: 0.6 }));
  const { candidate, baseline, byRoute } = simulate(
    { ...USUAL, minutes: MINUTES, routes, rates: { candidate: 10, baseline: 40 } },
    1,
  );
  const drawn = draws(MINUTES, RESAMPLES, 1);
  const values = byRoute.map((sides, i) => ({ value: String(i), ...sides }));
  checkEqual(candidate, drawn.slice(0, DIRECT));
  let began = performance.now();
  for (const q of QUANTILES) compareQuantile(asItIs(candidate), asItIs(baseline), q, drawn);
  const plain = performance.now() - began;
  began = performance.now();
  for (const q of QUANTILES) compareQuantile(likeForLike(values), asItIs(baseline), q, drawn);
  const like = performance.now() - began;
  const drawnOut = drawn.slice(0, DIRECT).map(minutesIn);
  began = performance.now();
  for (const minutes of drawnOut)
    for (const q of QUANTILES) for (const side of [candidate, baseline]) directly(side, minutes, q);
  const direct = ((performance.now() - began) * RESAMPLES) / DIRECT;
  const asked = { length: 60_000, tolerances: USUAL_TOLERANCES, meant: null, all: null };
  const fewer = drawn.slice(0, FEWER);
  began = performance.now();
  compareSides(candidate, baseline, drawn, asked);
  compareAlike(values, fewer, asked);
  explain(tuplesOf(byRoute), ["route", "depot", "kind"], asSeen(MINUTES), fewer);
  const whole = performance.now() - began;
  process.stdout.write(
    `\nSix hours by minutes, ${RESAMPLES} resamples, ${QUANTILES.length} percentiles: ${plain.toFixed(0)} ms, like for like over ${VALUES} values ${like.toFixed(0)} ms; the direct way ${direct.toFixed(0)} ms, ${(direct / plain).toFixed(1)} times as long\nAll that a page is told (percentiles, failures, split, like for like and causes from ${values.length * 6} combinations, these two by ${FEWER} resamples): ${whole.toFixed(0)} ms\n`,
  );
}
