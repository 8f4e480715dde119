import type { CatalogueEntry } from "@/core/api/instruments";
import { nearest } from "@/core/reading/language/nearest";

/** Finding instruments by typing any part of a name, attribute, service or value. */

export interface Searchable {
  entry: CatalogueEntry;
  /** Everything that is looked into, in lower case. */
  text: string;
}

export function searchable(entries: readonly CatalogueEntry[]): Searchable[] {
  return entries.map((entry) => ({
    entry,
    text: [entry.name, entry.description, entry.unit, ...entry.attributes, ...entry.services]
      .join("\u0001")
      .toLowerCase(),
  }));
}

export interface Found {
  entries: CatalogueEntry[];
  /** A name that was probably meant, where nothing was found. */
  near: string | null;
}

/** Words that all must occur; metrics known to have a value like the whole text count too. */
export function search(all: readonly Searchable[], text: string, byValue: ReadonlySet<string>): Found {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return { entries: all.map(({ entry }) => entry), near: null };
  const entries = all
    .filter((one) => words.every((word) => one.text.includes(word)) || byValue.has(one.entry.name))
    .map(({ entry }) => entry);
  const near =
    entries.length === 0
      ? nearest(
          text.trim(),
          all.map(({ entry }) => entry.name),
        )
      : null;
  return { entries, near };
}

/** A line of the list: the head of a group, or an instrument. */
export type Line = { type: "head"; prefix: string; count: number } | { type: "entry"; entry: CatalogueEntry };

/** What stands before the first separator of a name. */
export function prefixOf(name: string): string {
  return /^[A-Za-z0-9]+/.exec(name)?.[0] ?? name;
}

/** Entries by name, with a head before names that begin alike. */
export function linesOf(entries: readonly CatalogueEntry[]): Line[] {
  const groups = new Map<string, CatalogueEntry[]>();
  for (const entry of entries) {
    const prefix = prefixOf(entry.name);
    const group = groups.get(prefix);
    if (group) group.push(entry);
    else groups.set(prefix, [entry]);
  }
  return [...groups]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .flatMap(([prefix, group]): Line[] => [
      // A head over a single name would say nothing.
      ...(group.length > 1 ? [{ type: "head", prefix, count: group.length } as const] : []),
      ...group.map((entry): Line => ({ type: "entry", entry })),
    ]);
}
