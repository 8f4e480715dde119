import { OTHERS, type Tuple } from "../../compare/explain";
import type { ValueSides } from "../../compare/mix";
import { type Edges, type Side, SideBuilder } from "../../compare/side";
import type { Interval } from "../../histogram/intervals";
import { countUpTo, totalCount } from "../../histogram/quantile";
import type { Attributes } from "../../metric/model";
import { valueText } from "../../metric/text";
import { makeCells } from "../cells";
import { distributionOf } from "../distribution";
import { groupSeries, type SeriesGroup } from "../grouping";
import type { Predicate } from "../language/conditions";
import type { Source } from "../source";

/** The calls of both sides of a comparison, by minute, and told apart by their attributes. */

/** What one side is read from: its own series over its own minutes. */
export interface SideSource {
  source: Source;
  /** Bounds of its minutes, rising; both sides have as many. */
  bounds: Float64Array;
}

/** Attributes that say who reports, and not what was called. */
const OF_WHO_REPORTS = /^(service|telemetry|deployment|process)\./;
/** Combinations of values that are told apart; of more, the attributes with most values are left out. */
const MAX_TUPLES = 500;

const wholes = new WeakMap<Source, SeriesGroup>();

/** All series of a side as one group; of each source it is made once. */
function everySeries({ source }: SideSource): SeriesGroup {
  let whole = wholes.get(source);
  if (!whole) {
    whole = groupSeries(source, () => true, [])[0] ?? { labels: {}, members: [] };
    wholes.set(source, whole);
  }
  return whole;
}

function valuesBy(side: SideSource): Map<string, Set<string>> {
  const found = new Map<string, Set<string>>();
  for (const { series } of everySeries(side).members)
    for (const [name, value] of Object.entries(series.attributes)) {
      if (OF_WHO_REPORTS.test(name)) continue;
      let values = found.get(name);
      if (!values) {
        values = new Set();
        found.set(name, values);
      }
      values.add(valueText(value));
    }
  return found;
}

/**
 * The attributes by which a difference can be explained: those that say more than one thing, and have a value that both
 * sides have. What no value is shared of (hosts, containers) tells the sides apart, and not the calls.
 *
 * @returns those with fewest values first
 */
export function tellingAttributes(candidate: SideSource, baseline: SideSource): string[] {
  const [ours, theirs] = [valuesBy(candidate), valuesBy(baseline)];
  const told = [...new Set([...ours.keys(), ...theirs.keys()])].flatMap((name) => {
    const [one, other] = [ours.get(name) ?? new Set<string>(), theirs.get(name) ?? new Set<string>()];
    const all = new Set([...one, ...other]);
    const shared = one.size + other.size - all.size;
    // Where calls without it are a value too, one value is enough.
    const missing = [candidate, baseline].some((side) =>
      everySeries(side).members.some(({ series }) => !Object.hasOwn(series.attributes, name)),
    );
    const few = all.size < (missing ? 1 : 2);
    return few || (shared === 0 && one.size > 0 && other.size > 0) ? [] : [{ name, values: all.size }];
  });
  return told.sort((a, b) => a.values - b.values || a.name.localeCompare(b.name)).map(({ name }) => name);
}

/**
 * All calls of a side's minutes as intervals, and the bounds between which that side tells them apart: each side by its
 * own, so that a release with other buckets is not taken for one that knows what it does not.
 */
export function shapeOf(side: SideSource): { calls: Interval[]; edges: Edges } {
  const { bounds, source } = side;
  const cells = makeCells(Float64Array.of(bounds[0], bounds[bounds.length - 1]), null);
  const distribution = distributionOf(everySeries(side), cells, source.earliest);
  return { calls: distribution.window() ?? [], edges: distribution.edges() };
}

function groupKey(attributes: Attributes, names: readonly string[]): (string | null)[] {
  return names.map((name) => (Object.hasOwn(attributes, name) ? valueText(attributes[name]) : null));
}

interface Piece {
  values: (string | null)[];
  failed: boolean;
  group: SeriesGroup;
}

function piecesOf(side: SideSource, names: readonly string[], fails: Predicate): Piece[] {
  const found = new Map<string, Piece>();
  for (const { identity, series } of everySeries(side).members) {
    const values = groupKey(series.attributes, names);
    const failed = fails(series.attributes);
    const key = JSON.stringify([values, failed]);
    let piece = found.get(key);
    if (!piece) {
      piece = { values, failed, group: { labels: {}, members: [] } };
      found.set(key, piece);
    }
    piece.group.members.push({ identity, series });
  }
  return [...found.values()];
}

/** As many of the attributes, in their order, as tell no more combinations apart than can be held. */
function affordable(sides: readonly SideSource[], names: readonly string[]): string[] {
  const kept: string[] = [];
  const series = sides.flatMap((side) => everySeries(side).members.map((member) => member.series.attributes));
  // What tells them apart so far, as a number each.
  let apart = series.map(() => 0);
  for (const name of names) {
    const numbers = new Map<string, number>();
    const next = series.map((attributes, i) => {
      const key = `${apart[i]} ${JSON.stringify(groupKey(attributes, [name]))}`;
      const known = numbers.get(key);
      if (known !== undefined) return known;
      numbers.set(key, numbers.size);
      return numbers.size - 1;
    });
    if (numbers.size > MAX_TUPLES) continue;
    kept.push(name);
    apart = next;
  }
  return kept;
}

/** What was read of both. */
export interface ComparedCalls {
  candidate: Side;
  baseline: Side;
  /** The attributes that tuples are told apart by. */
  attributes: string[];
  /** Calls by their attributes: those that took longer than the bound, and those that failed. */
  slow: Tuple[];
  failed: Tuple[];
}

export interface BothSources {
  candidate: SideSource;
  baseline: SideSource;
}

/** Of each side the bounds between which it tells calls apart. */
export interface BothEdges {
  candidate: Edges;
  baseline: Edges;
}

function tupleParts(minutes: number): Tuple["candidate"] {
  return { calls: new Float64Array(minutes), hits: new Float64Array(minutes) };
}

/** Combinations of values, each with its slow and its failed calls; both count the same calls. */
class Tuples {
  private readonly found = new Map<string, { slow: Tuple; failed: Tuple }>();

  constructor(private readonly minutes: number) {}

  of(values: (string | null)[]): { slow: Tuple; failed: Tuple } {
    const key = JSON.stringify(values);
    let found = this.found.get(key);
    if (!found) {
      const slow = { values, candidate: tupleParts(this.minutes), baseline: tupleParts(this.minutes) };
      const failing = (side: "candidate" | "baseline") => ({ ...tupleParts(this.minutes), calls: slow[side].calls });
      found = { slow, failed: { values, candidate: failing("candidate"), baseline: failing("baseline") } };
      this.found.set(key, found);
    }
    return found;
  }

  get all(): { slow: Tuple; failed: Tuple }[] {
    return [...this.found.values()];
  }
}

/**
 * Reads the calls of both sides by minute, as a whole and by all their attributes.
 *
 * @param attributes that may explain a difference (see `tellingAttributes`)
 * @param slower the bound above which calls are slow, in the metric's unit
 * @param fails which series hold failed calls
 * @throws TooMuchError
 */
export function compareCalls(
  sides: BothSources,
  edges: BothEdges,
  attributes: readonly string[],
  slower: number,
  fails: Predicate,
): ComparedCalls {
  const names = affordable([sides.candidate, sides.baseline], attributes);
  const tuples = new Tuples(sides.candidate.bounds.length - 1);
  const readSide = (which: keyof BothSources): Side => {
    const whole = new SideBuilder(edges[which], sides[which].bounds.length - 1);
    readPieces(sides[which], names, fails, (piece, minute, intervals) => {
      const { slow, failed } = tuples.of(piece.values);
      const calls = totalCount(intervals);
      const failing = piece.failed ? calls : 0;
      whole.add(minute, intervals, failing);
      slow[which].calls[minute] += calls;
      slow[which].hits[minute] += calls - countUpTo(intervals, slower);
      failed[which].hits[minute] += failing;
    });
    return whole.finished();
  };
  const [candidate, baseline] = [readSide("candidate"), readSide("baseline")];
  const { all } = tuples;
  return {
    candidate,
    baseline,
    attributes: names,
    slow: all.map(({ slow }) => slow),
    failed: all.map(({ failed }) => failed),
  };
}

function readPieces(
  { source, bounds }: SideSource,
  names: readonly string[],
  fails: Predicate,
  take: (piece: Piece, minute: number, intervals: Interval[]) => void,
): void {
  const cells = makeCells(bounds, null);
  for (const piece of piecesOf({ source, bounds }, names, fails)) {
    const distribution = distributionOf(piece.group, cells, source.earliest);
    for (let minute = 0; minute < bounds.length - 1; minute++) {
      const intervals = distribution.step(minute);
      if (intervals) take(piece, minute, intervals);
    }
  }
}

/** Values of an attribute that get sides of their own; the least busy of more are one. */
const MAX_VALUES = 40;

/** The sides of each value of an attribute, the busiest first. @throws TooMuchError */
export function sidesByValue(sides: BothSources, edges: BothEdges, attribute: string, fails: Predicate): ValueSides[] {
  const minutes = sides.candidate.bounds.length - 1;
  const busy = new Map<string | null, number>();
  for (const side of [sides.candidate, sides.baseline]) {
    const ends = Float64Array.of(side.bounds[0], side.bounds[minutes]);
    readPieces({ ...side, bounds: ends }, [attribute], fails, ({ values }, _, intervals) => {
      busy.set(values[0], (busy.get(values[0]) ?? 0) + totalCount(intervals));
    });
  }
  const ordered = [...busy].sort((a, b) => b[1] - a[1]).map(([value]) => value);
  const apart = ordered.length > MAX_VALUES ? ordered.slice(0, MAX_VALUES - 1) : ordered;
  const builders = (own: Edges) =>
    new Map(apart.map((value) => [value as string | null, new SideBuilder(own, minutes)]));
  const built = { candidate: builders(edges.candidate), baseline: builders(edges.baseline) };
  for (const which of ["candidate", "baseline"] as const) {
    const others = apart.length < ordered.length ? new SideBuilder(edges[which], minutes) : null;
    readPieces(sides[which], [attribute], fails, ({ values, failed }, minute, intervals) => {
      const own = built[which].get(values[0]) ?? others;
      own?.add(minute, intervals, failed ? totalCount(intervals) : 0);
    });
    if (others) built[which].set(OTHERS, others);
  }
  return [...built.candidate].map(([value, candidate]) => ({
    value,
    candidate: candidate.finished(),
    baseline: built.baseline.get(value)!.finished(),
  }));
}
