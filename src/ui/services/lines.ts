import { byRelease, type InstanceGroup, type InstanceRow, MAX_UNFOLDED, type ReleaseRows } from "./rows";

/** The lines of the list of services, in order, as what is opened makes them. */
export type Line = { key: string; group: InstanceGroup } & (
  | { kind: "group" }
  /** Many instances of one release together. */
  | { kind: "release"; release: ReleaseRows; open: boolean }
  | { kind: "instance"; row: InstanceRow }
  /** How many instances there are of releases that no longer serve. */
  | { kind: "past"; count: number; open: boolean }
);

/** Rows that are shown at once when somebody asks for all. */
export const MAX_PAST = 200;

function keyOf(...names: readonly string[]): string {
  return JSON.stringify(names);
}

/** @param opened the keys of lines that were opened */
export function linesOf(groups: readonly InstanceGroup[], opened: ReadonlySet<string>): Line[] {
  const lines: Line[] = [];
  for (const group of groups) {
    const instance = (row: InstanceRow): Line => ({
      kind: "instance",
      key: keyOf("instance", group.name, row.service, row.environment, row.release, row.instance),
      group,
      row,
    });
    lines.push({ kind: "group", key: keyOf("group", group.name), group });
    const { served, past } = byRelease(group);
    for (const release of served) {
      const folds = release.rows.length > MAX_UNFOLDED;
      const key = keyOf("release", group.name, release.service, release.environment, release.release);
      if (folds) lines.push({ kind: "release", key, group, release, open: opened.has(key) });
      if (!folds || opened.has(key)) lines.push(...release.rows.map(instance));
    }
    if (past.length === 0) continue;
    const key = keyOf("past", group.name);
    lines.push({ kind: "past", key, group, count: past.length, open: opened.has(key) });
    if (!opened.has(key)) continue;
    const last = [...past].sort((a, b) => b.lastAt - a.lastAt).slice(0, MAX_PAST);
    lines.push(...last.map(instance));
  }
  return lines;
}

/** The rows in which each word of a text stands: in a name, a release, an id or any attribute of the resource. */
export function matching(rows: readonly InstanceRow[], text: string): readonly InstanceRow[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  if (words.length === 0) return rows;
  return rows.filter(({ service, release, environment, instance, attributes }) => {
    const told = [service, release, environment, instance, ...Object.values(attributes)].join("\n").toLowerCase();
    return words.every((word) => told.includes(word));
  });
}
