import { editDistance } from "../reading/language/nearest";

/** Telling a metric that was renamed from one that went away. */

/** What is known of a metric of a release. */
export interface Trait {
  name: string;
  kind: string;
  unit: string;
  monotonic: boolean;
  attributes: readonly string[];
  /** How much of it there usually is: a rate or a level; null where that is not known. */
  level: number | null;
}

/** Likeness below which nothing is said. */
const LEAST = 0.55;

const OF_WORDS = 0.6;
const OF_LETTERS = 0.4;

/**
 * The part of words that two names share, and how alike their letters are: 0 to 1.
 *
 * @param least below which it does not matter: then letters are not compared where words leave no hope
 */
export function nameLikeness(a: string, b: string, least = 0): number {
  const words = (name: string) =>
    new Set(
      name
        .toLowerCase()
        .split(/[^a-z0-9]+|(?<=[a-z])(?=[0-9])/)
        .filter(Boolean),
    );
  const [first, second] = [words(a), words(b)];
  const near = [...first].filter((word) => [...second].some((other) => alike(word, other))).length;
  const shared = near / Math.max(first.size, second.size, 1);
  if (OF_WORDS * shared + OF_LETTERS < least) return OF_WORDS * shared;
  const letters = 1 - editDistance(a.toLowerCase(), b.toLowerCase()) / Math.max(a.length, b.length, 1);
  return OF_WORDS * shared + OF_LETTERS * letters;
}

/** The same word, or one with another ending: extend, extended. */
function alike(a: string, b: string): boolean {
  const [short, long] = a.length < b.length ? [a, b] : [b, a];
  return short.length >= 3 && long.startsWith(short) ? long.length - short.length <= 3 : a === b;
}

function overlap(a: readonly string[], b: readonly string[]): number {
  const all = new Set([...a, ...b]);
  if (all.size === 0) return 1;
  return a.filter((name) => b.includes(name)).length / all.size;
}

/** How likely it is that one became the other: 0 to 1. Another kind or unit rules it out. */
export function likeness(gone: Trait, came: Trait): number {
  if (gone.kind !== came.kind || gone.unit !== came.unit || gone.monotonic !== came.monotonic) return 0;
  const level =
    gone.level === null || came.level === null || gone.level <= 0 || came.level <= 0
      ? 0.5
      : Math.min(gone.level, came.level) / Math.max(gone.level, came.level);
  return 0.5 * nameLikeness(gone.name, came.name) + 0.25 * overlap(gone.attributes, came.attributes) + 0.25 * level;
}

/** Pairs of metrics that went and came, each used once, the likeliest first. */
export function renames(
  gone: readonly Trait[],
  came: readonly Trait[],
): { from: string; to: string; likeness: number }[] {
  const pairs = gone
    .flatMap((one) => came.map((other) => ({ from: one.name, to: other.name, likeness: likeness(one, other) })))
    .filter((pair) => pair.likeness >= LEAST)
    .sort((a, b) => b.likeness - a.likeness);
  const used = new Set<string>();
  return pairs.filter(({ from, to }) => {
    if (used.has(`-${from}`) || used.has(`+${to}`)) return false;
    used.add(`-${from}`).add(`+${to}`);
    return true;
  });
}
