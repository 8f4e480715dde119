import type { KnownSeries } from "../otlp/dictionary";
import type { Lane } from "./lane";

/** Following series through a lane, to say what becomes of them. */

function keyed({ metric, key }: KnownSeries): string {
  return `${metric.identity.name} ${metric.identity.unit} ${key}`;
}

/**
 * How many of some series, and of those that they become, go into each step and come out of it.
 *
 * @param born series that came out of steps and were none before, by their ids
 */
export function seriesCounts(
  lane: Lane,
  all: Iterable<KnownSeries>,
  born: ReadonlyMap<string, Iterable<KnownSeries>> = new Map(),
): Record<string, { in: number; out: number }> {
  const into = lane.routes.steps.map(() => new Set<KnownSeries>());
  const from = lane.routes.steps.map(() => new Set<string>());
  const follow = (series: KnownSeries, first: number) => {
    // What begins behind a step came out of it.
    if (first > 0) from[first - 1].add(keyed(series));
    for (const { passed, end, series: last } of lane.routes.from(first, series)) {
      passed.forEach((step, k) => {
        into[step].add(series);
        if (k < passed.length - 1 || end.type === "out") from[step].add(keyed(series));
      });
      if (end.type === "out" || end.type === "gone") continue;
      const next = lane.behind(end, last);
      if (next) follow(next, end.step + 1);
    }
  };
  for (const series of all) follow(series, 0);
  lane.routes.steps.forEach(({ config }, i) => {
    for (const series of born.get(config.id) ?? []) follow(series, i + 1);
  });
  return Object.fromEntries(
    lane.routes.steps.flatMap(({ config }, i) =>
      config.type === "counted" ? [] : [[config.id, { in: into[i].size, out: from[i].size }]],
    ),
  );
}

/** What a series is called at the end, and whether it met others on the way. Nothing where it goes nowhere. */
export function trace(
  lane: Lane,
  series: KnownSeries,
  first = 0,
  met = false,
): { series: KnownSeries; met: boolean }[] {
  return lane.routes.from(first, series).flatMap(({ end, series: last }) => {
    if (end.type === "gone") return [];
    if (end.type === "out") return [{ series: last, met }];
    const next = lane.behind(end, last);
    return next ? trace(lane, next, end.step + 1, met || end.type === "windowed") : [];
  });
}

/**
 * Takes a series through the whole lane.
 *
 * @param visit told of each step that it comes to, as it is called there
 */
export function eachStep(
  lane: Lane,
  series: KnownSeries,
  visit: (step: number, series: KnownSeries) => void,
  first = 0,
): void {
  for (const { passed, named, end, series: last } of lane.routes.from(first, series)) {
    passed.forEach((step, k) => {
      visit(step, named[k]);
    });
    if (end.type === "out" || end.type === "gone") continue;
    const next = lane.behind(end, last);
    if (next) eachStep(lane, next, visit, end.step + 1);
  }
}

/** Whether a series comes out as it is, met by no other. */
export function passes(lane: Lane, series: KnownSeries): boolean {
  return trace(lane, series).some(
    ({ series: end, met }) => !met && end.key === series.key && end.metric === series.metric,
  );
}
