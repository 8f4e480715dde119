import { shortAttribute } from "../../reading/language/tree";
import type { ReadingResult } from "../../reading/result";
import { nameOf } from "./names";
import { joined } from "./rows";

/** The figures of a plate as CSV (RFC 4180), whole and in the units that they are measured in. */

function field(value: string | number | null): string {
  const text = value === null ? "" : String(value);
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

const lines = (rows: readonly (readonly (string | number | null)[])[]) =>
  rows.map((row) => `${row.map(field).join(",")}\r\n`).join("");

/** A reading with its answer. */
export interface CsvReading {
  text: string;
  names: string;
  result: ReadingResult;
}

/** Steps as rows, series as columns. Steps that only some of the readings have are left empty for the others. */
export function stepsCsv(readings: readonly CsvReading[]): string {
  const times = [...new Set(readings.flatMap(({ result }) => result.times))].sort((a, b) => a - b);
  const columns = readings.flatMap(({ text, names, result }) =>
    result.series.map((series) => {
      const at = new Map(result.times.map((time, i) => [time, series.values[i]]));
      const head = `${nameOf(series, names, text)}${result.unit === "" || result.unit === "1" ? "" : ` [${result.unit}]`}`;
      return { head, at };
    }),
  );
  return lines([
    ["until", ...columns.map(({ head }) => head)],
    ...times.map((time) => [new Date(time).toISOString(), ...columns.map(({ at }) => at.get(time) ?? null)]),
  ]);
}

/** A row for each combination of labels, a column for each reading: what the window comes to. */
export function windowCsv(readings: readonly CsvReading[]): string {
  const { labels, rows } = joined(
    readings.map(({ result }) => result),
    readings.map(({ text }) => text),
  );
  const heads = readings.map(
    ({ text, result }) => `${text}${result.unit === "" || result.unit === "1" ? "" : ` [${result.unit}]`}`,
  );
  return lines([
    [...labels.map(shortAttribute), ...heads],
    ...rows.map((row) => [...labels.map((label) => row.labels[label] ?? null), ...row.values]),
  ]);
}
