import { asItIs, compareQuantile } from "../../../src/core/compare/latency";
import { likeForLike } from "../../../src/core/compare/mix";
import { valueAt } from "../../../src/core/compare/quantileReader";
import { type Draw, draws } from "../../../src/core/compare/resample";
import type { Side } from "../../../src/core/compare/side";
import { simulate, USUAL } from "../../../src/core/compare/testing/simulate";

/** How long a comparison takes against the direct way: each resample's buckets added up, then searched. */

const MINUTES = 360;
const VALUES = 40;
const RESAMPLES = 1000;
/** The direct way is timed on fewer resamples: all take the same. */
const DIRECT = 20;
const QUANTILES = [0.5, 0.95, 0.99];

function directly(side: Side, draw: Draw, q: number): number {
  const counts = new Float64Array(side.edges.length);
  for (let edge = 0; edge < counts.length; edge++)
    draw.minutes.forEach((minute, i) => {
      counts[edge] += draw.times[i] * side.below[edge * side.minutes + minute];
    });
  const total = counts[counts.length - 1];
  const cell = counts.findIndex((count) => count >= q * total * (1 - 1e-12));
  return valueAt(side, { cell, part: (q * total - counts[cell - 1]) / (counts[cell] - counts[cell - 1]) });
}

export function timeComparison(): void {
  const routes = Array.from({ length: VALUES }, (_, i) => ({ weight: 1 / VALUES, median: 30 + 5 * i, scatter: 0.6 }));
  const { candidate, baseline, byRoute } = simulate(
    { ...USUAL, minutes: MINUTES, routes, rates: { candidate: 10, baseline: 40 } },
    1,
  );
  const drawn = draws(MINUTES, RESAMPLES, 1);
  const values = byRoute.map((sides, i) => ({ value: String(i), ...sides }));
  let began = performance.now();
  for (const q of QUANTILES) compareQuantile(asItIs(candidate), asItIs(baseline), q, drawn);
  const plain = performance.now() - began;
  began = performance.now();
  for (const q of QUANTILES) compareQuantile(likeForLike(values), asItIs(baseline), q, drawn);
  const like = performance.now() - began;
  began = performance.now();
  for (const draw of drawn.slice(0, DIRECT))
    for (const q of QUANTILES) for (const side of [candidate, baseline]) directly(side, draw, q);
  const direct = ((performance.now() - began) * RESAMPLES) / DIRECT;
  process.stdout.write(
    `\nSix hours by minutes, ${RESAMPLES} resamples, ${QUANTILES.length} percentiles: ${plain.toFixed(0)} ms, like for like over ${VALUES} values ${like.toFixed(0)} ms; the direct way ${direct.toFixed(0)} ms, ${(direct / plain).toFixed(1)} times as long\n`,
  );
}
