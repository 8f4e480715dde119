import type { ReadingResult, ReadingSeries } from "../../reading/result";
import { addsUp } from "./adds";
import { bandWords } from "./names";

/** Several readings as the columns of one table, joined by their labels. */

export interface TableRow {
  labels: Record<string, string | null>;
  /** By reading: what the window comes to; null where it has no series with these labels. */
  values: (number | null)[];
}

export interface JoinedTable {
  /** The labels that rows have, in the order in which readings name them. */
  labels: string[];
  rows: TableRow[];
  /** By reading: the sum of its column; null where values do not add up. */
  sums: (number | null)[];
}

/** The label under which the bands of a spread stand in a table. */
const BAND = "lie from, to";

/** Each band of a spread is a row of its own. */
function withBand(one: ReadingSeries): ReadingSeries {
  return one.band ? { ...one, labels: { ...one.labels, [BAND]: bandWords(one.band) } } : one;
}

/**
 * Joins answers by the labels that all of them have. An answer that has fewer labels than the others stands in every row
 * that agrees with it, as a total beside its parts.
 *
 * @param texts the readings, which tell what adds up
 */
export function joined(given: readonly (ReadingResult | null)[], texts: readonly string[]): JoinedTable {
  const answers = given.map((one) => one && { series: one.series.map(withBand) });
  const labels = [
    ...new Set(answers.flatMap((one) => (one ? one.series.flatMap(({ labels: own }) => Object.keys(own)) : []))),
  ];
  const labelsOf = (answer: Pick<ReadingResult, "series">) => [
    ...new Set(answer.series.flatMap((one) => Object.keys(one.labels))),
  ];
  const whole = answers.map((answer) => answer !== null && labelsOf(answer).length === labels.length);
  const rows = new Map<string, TableRow>();
  const keyOf = (of: Record<string, string | null>, names: readonly string[]) =>
    JSON.stringify(names.map((name) => (name in of ? of[name] : null)));
  // Rows are made by the answers with all labels; where none has all, by every one of them.
  const makers = whole.some(Boolean) ? whole : answers.map((answer) => answer !== null);
  answers.forEach((answer, place) => {
    if (!answer || !makers[place]) return;
    for (const { labels: own, total } of answer.series) {
      const key = keyOf(own, labels);
      const row = rows.get(key) ?? { labels: own, values: new Array<number | null>(answers.length).fill(null) };
      row.values[place] = total;
      rows.set(key, row);
    }
  });
  answers.forEach((answer, place) => {
    if (!answer || makers[place]) return;
    const own = labelsOf(answer);
    const totals = new Map(answer.series.map((one) => [keyOf(one.labels, own), one.total]));
    for (const row of rows.values()) row.values[place] = totals.get(keyOf(row.labels, own)) ?? null;
  });
  const sums = answers.map((answer, place) =>
    answer && addsUp(texts[place])
      ? answer.series.reduce<number | null>((sum, { total }) => (total === null ? sum : (sum ?? 0) + total), null)
      : null,
  );
  return { labels, rows: [...rows.values()], sums };
}

const collator = new Intl.Collator("en", { numeric: true });

/**
 * Rows sorted by a column; those without a value come last, whichever way.
 *
 * @param by the place of a reading, or the name of a label
 */
export function sortedRows(rows: readonly TableRow[], by: number | string, falling: boolean): TableRow[] {
  const sign = falling ? -1 : 1;
  const cellOf = (row: TableRow) => (typeof by === "number" ? row.values[by] : (row.labels[by] ?? null));
  return [...rows].sort((a, b) => {
    const [x, y] = [cellOf(a), cellOf(b)];
    if (x === null || y === null) return (x === null ? 1 : 0) - (y === null ? 1 : 0);
    return sign * (typeof x === "number" ? x - Number(y) : collator.compare(x, String(y)));
  });
}

/** Where a row leads: {label} in an address stands for the row's value, written as an address needs it. */
export function rowLink(link: string, labels: Readonly<Record<string, string | null>>): string {
  return link.replace(/\{([^{}]+)\}/g, (_, label: string) => encodeURIComponent(labels[label] ?? ""));
}
