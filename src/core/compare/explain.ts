import { type PartTotals, partOf, totalsOf, type ValueCounts } from "./mix";
import { variance } from "./moments";
import { type Draw, MinuteColumn } from "./resample";
import { reach, varianceOf } from "./sequence";

/**
 * What explains a change of a share of calls: which values of attributes, alone and in pairs, it comes from. Each value's
 * part is split as in {@link partOf}; what stands first is what adds most beyond what its calls would add were the change
 * the same everywhere.
 */

/** Calls that agree in all attributes: of each side how many there were by minute, and how many of them count. */
export interface Tuple {
  /** Values in the order of the attributes; null where there is none. */
  values: readonly (string | null)[];
  candidate: Counted;
  baseline: Counted;
}

interface Counted {
  calls: Float64Array;
  /** Those that count: slow ones, failed ones. */
  hits: Float64Array;
}

/** A value of an attribute; null: calls without it. */
export interface AttributeValueIs {
  attribute: string;
  value: string | null;
}

/** What a change comes from. Parts are of the whole change, in parts of 1 of all calls. */
export interface Cause {
  /** One attribute with its value, or two. */
  where: AttributeValueIs[];
  /** From its own calls having another share. */
  within: number;
  /** From there being more or fewer of its calls. */
  mix: number;
  /** Both, with the interval in which it lies. */
  part: number;
  low: number;
  high: number;
  candidate: { calls: number; hits: number };
  baseline: { calls: number; hits: number };
}

/** A value of an attribute that one side or both have. */
export interface AttributeRow extends Cause {
  where: [AttributeValueIs];
}

export interface Explanation {
  /** The change of the share, candidate less baseline. */
  whole: number;
  /** Of both sides, the share of calls that count. */
  shares: { candidate: number; baseline: number };
  /** What it comes from, the most telling first; dull ones are left out. */
  causes: Cause[];
  /** Per attribute all its values, by how much they add; their parts add up to the whole. */
  attributes: { attribute: string; values: AttributeRow[]; mix: number }[];
}

/** Values of an attribute that are told apart; the others are one. */
const MAX_VALUES = 40;
export const OTHERS = "all others";
/** Fewer calls than this on both sides together are not worth a word. */
const LEAST_CALLS = 50;
const MAX_CAUSES = 12;
/** How many causes are held against chance. */
const MAX_TRIED = 60;
/** A cause beyond its even share by less than this part of the whole is dull. */
const LEAST_BEYOND = 0.05;
/** A cause of which less than this part is new after those that stand before it says nothing of its own. */
const NEWS = 0.5;
/** A pair that has more than this part of what a value adds may stand for it. */
const MOSTLY = 0.8;

interface Group {
  where: AttributeValueIs[];
  /** Places of the tuples that belong to it. */
  members: number[];
}

interface Sums {
  candidate: { calls: Float64Array; hits: Float64Array };
  baseline: { calls: Float64Array; hits: Float64Array };
}

/** Sums over samples of minutes, tuple by tuple. */
function sumsOver(tuples: readonly Tuple[], samples: readonly Draw[]): Sums[] {
  const none = () => ({ calls: new Float64Array(tuples.length), hits: new Float64Array(tuples.length) });
  const sums = samples.map((): Sums => ({ candidate: none(), baseline: none() }));
  // Column by column: its numbers are near at hand for all samples.
  for (const side of ["candidate", "baseline"] as const)
    for (const what of ["calls", "hits"] as const)
      for (let i = 0; i < tuples.length; i++) {
        const column = new MinuteColumn(tuples[i][side][what]);
        for (let k = 0; k < samples.length; k++) sums[k][side][what][i] = column.sum(samples[k]);
      }
  return sums;
}

function countsIn(sums: Sums, members: readonly number[]): ValueCounts {
  const of = (side: "candidate" | "baseline") => {
    let [calls, hits] = [0, 0];
    for (const member of members) {
      calls += sums[side].calls[member];
      hits += sums[side].hits[member];
    }
    return { calls, hits };
  };
  return { value: "", candidate: of("candidate"), baseline: of("baseline") };
}

const callsIn = ({ candidate, baseline }: Pick<Cause, "candidate" | "baseline">) => candidate.calls + baseline.calls;

/** The values of an attribute as groups: the busiest by themselves, the others as one. */
function groupsOf(tuples: readonly Tuple[], place: number, attribute: string, sums: Sums): Group[] {
  const found = new Map<string | null, number[]>();
  tuples.forEach(({ values }, i) => {
    const members = found.get(values[place]);
    if (members) members.push(i);
    else found.set(values[place], [i]);
  });
  const groups = [...found].map(([value, members]) => ({ where: [{ attribute, value }], members }));
  if (groups.length <= MAX_VALUES) return groups;
  const busiest = groups
    .map((group) => ({ group, calls: callsIn(countsIn(sums, group.members)) }))
    .sort((a, b) => b.calls - a.calls)
    .map(({ group }) => group);
  const rest = busiest.slice(MAX_VALUES - 1).flatMap(({ members }) => members);
  return [...busiest.slice(0, MAX_VALUES - 1), { where: [{ attribute, value: OTHERS }], members: rest }];
}

function pairsOf(one: readonly Group[], other: readonly Group[], tuples: number): Group[] {
  const placeIn = new Int32Array(tuples);
  other.forEach(({ members }, i) => {
    for (const member of members) placeIn[member] = i;
  });
  return one.flatMap(({ where, members }) => {
    const split = new Map<number, number[]>();
    for (const member of members) {
      const found = split.get(placeIn[member]);
      if (found) found.push(member);
      else split.set(placeIn[member], [member]);
    }
    return [...split].map(([i, own]) => ({ where: [...where, ...other[i].where], members: own }));
  });
}

const sumOf = ({ within, mix }: { within: number; mix: number }) => within + mix;

/** What comes from there being fewer of some calls is told by those that came instead, where these are known. */
const MISSING = 0.25;

/** How telling a cause is: what it adds beyond its even share; less where it is calls that are missing. */
function telling(counts: ValueCounts, totals: PartTotals, beyond: number): number {
  const { within, mix } = partOf(counts, totals);
  const fewer =
    counts.candidate.calls / totals.candidate.calls < counts.baseline.calls / totals.baseline.calls &&
    Math.abs(mix) > Math.abs(within);
  return Math.abs(beyond) * (fewer ? MISSING : 1);
}

/** The variance of a part, were each call by itself; shares are drawn a little to the middle (Agresti and Coull 1998). */
function byItself({ candidate, baseline }: ValueCounts, totals: PartTotals): number {
  const weight = (candidate.calls / totals.candidate.calls + baseline.calls / totals.baseline.calls) / 2;
  const of = ({ hits, calls }: ValueCounts["candidate"]) => {
    const share = (hits + 2) / (calls + 4);
    return (share * (1 - share)) / (calls + 4);
  };
  return weight * weight * (of(candidate) + of(baseline));
}

/** How much a group adds beyond what its calls would, were the change the same everywhere. */
function beyondEven(counts: ValueCounts, totals: PartTotals): number {
  const { within, mix } = partOf(counts, totals);
  const weight = (counts.candidate.calls / totals.candidate.calls + counts.baseline.calls / totals.baseline.calls) / 2;
  return within + mix - weight * totals.change;
}

/**
 * @param attributes the names of the values of tuples, in their order
 * @param samples minutes drawn from both sides together
 * @returns null where a side has no calls
 */
export function explain(
  tuples: readonly Tuple[],
  attributes: readonly string[],
  seen: Draw,
  samples: readonly Draw[],
): Explanation | null {
  const [sums] = sumsOver(tuples, [seen]);
  const everything = tuples.map((_, i) => i);
  const all = countsIn(sums, everything);
  const totals = totalsOf(all);
  if (!totals) return null;
  const singles = attributes.map((attribute, place) => groupsOf(tuples, place, attribute, sums));
  const valued = singles.map((groups) => groups.filter(({ members }) => callsIn(countsIn(sums, members)) > 0));
  const pairs = valued.flatMap((one, i) => valued.slice(i + 1).flatMap((other) => pairsOf(one, other, tuples.length)));
  const several = valued.filter((groups) => groups.length > 1);
  const ranked = [...several.flat(), ...pairs]
    .map((group) => {
      const counts = countsIn(sums, group.members);
      const beyond = beyondEven(counts, totals);
      return { group, counts, beyond, told: telling(counts, totals, beyond) };
    })
    .filter(({ counts, group }) => callsIn(counts) >= LEAST_CALLS && group.members.length < tuples.length)
    // A pair that says no more than one of its halves comes after it.
    .sort((a, b) => b.told - a.told || a.group.where.length - b.group.where.length);
  const sampled = sumsOver(tuples, samples).map((own) => ({ own, totals: totalsOf(countsIn(own, everything)) }));
  const z = reach(seen.minutes);
  const withInterval = ({ where, members }: Group, counts: ValueCounts, tried: boolean) => {
    const { within, mix } = partOf(counts, totals);
    const part = within + mix;
    const parts: number[] = [];
    const beyonds: number[] = [];
    if (tried)
      for (const { own, totals: drawn } of sampled) {
        if (!drawn) continue;
        const some = countsIn(own, members);
        const split = partOf(some, drawn);
        parts.push(split.within + split.mix);
        beyonds.push(beyondEven(some, drawn));
      }
    const least = byItself(counts, totals);
    const error = (values: number[]) => z * Math.sqrt(varianceOf(least, variance(values), seen.minutes));
    const half = tried ? error(parts) : Number.POSITIVE_INFINITY;
    const cause: Cause = {
      where,
      within,
      mix,
      part,
      low: Math.max(-1, part - half),
      high: Math.min(1, part + half),
      candidate: counts.candidate,
      baseline: counts.baseline,
    };
    return { cause, half: tried ? error(beyonds) : Number.POSITIVE_INFINITY };
  };
  /** Of a value whose calls differ only where another value comes with it, that pair. */
  const narrowed = (one: (typeof ranked)[number]) => {
    if (one.group.where.length > 1) return one;
    const own = new Set(one.group.members);
    const pair = ranked.find(
      ({ group, beyond }) =>
        group.where.length > 1 &&
        Math.abs(beyond) > MOSTLY * Math.abs(one.beyond) &&
        group.members.every((member) => own.has(member)),
    );
    if (!pair) return one;
    for (const member of pair.group.members) own.delete(member);
    const rest = { where: one.group.where, members: [...own] };
    const { cause } = withInterval(rest, countsIn(sums, rest.members), true);
    return cause.low <= 0 && cause.high >= 0 ? pair : one;
  };
  const causes: Cause[] = [];
  const told = new Set<number>();
  for (const one of ranked.slice(0, MAX_TRIED)) {
    if (causes.length === MAX_CAUSES) break;
    if (Math.abs(one.beyond) < LEAST_BEYOND * Math.abs(totals.change)) continue;
    const { group, counts, beyond } = narrowed(one);
    // What causes before it say already is told once.
    const fresh = group.members.filter((member) => !told.has(member));
    if (fresh.length === 0) continue;
    const [news, whole] = [partOf(countsIn(sums, fresh), totals), partOf(counts, totals)].map(sumOf);
    if (news / whole < NEWS || Math.abs(whole) < LEAST_BEYOND * Math.abs(totals.change)) continue;
    const { cause, half } = withInterval(group, counts, true);
    // What is no more than chance, or than nothing, is dull.
    if (Math.abs(beyond) <= half || (cause.low <= 0 && cause.high >= 0)) continue;
    causes.push(cause);
    for (const member of group.members) told.add(member);
  }
  return {
    whole: totals.change,
    shares: { candidate: totals.candidate.share, baseline: totals.baseline.share },
    causes,
    attributes: attributes.map((attribute, i) => {
      const values = valued[i].map(
        (group) => withInterval(group, countsIn(sums, group.members), valued[i].length > 1).cause as AttributeRow,
      );
      values.sort((a, b) => Math.abs(b.part) - Math.abs(a.part));
      return { attribute, values, mix: values.reduce((total, { mix }) => total + Math.abs(mix), 0) };
    }),
  };
}
