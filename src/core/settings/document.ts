import { SETTINGS } from "./settings";

const shown = (value: string | number | undefined) =>
  value === undefined ? "" : typeof value === "string" && value.length > 20 ? "see left" : `\`${value}\``;

/** The settings as a table for people, Markdown, its columns padded. */
export function settingsTable(): string {
  const rows = Object.entries(SETTINGS).map(([name, { about, unit, default: usual }]) => [
    `\`${name}\``,
    unit ? `${about}, ${unit}` : about,
    shown(usual),
  ]);
  const table = [["variable", "what", "default"], ...rows];
  const widths = [0, 1, 2].map((column) => Math.max(...table.map((row) => row[column].length)));
  const line = (cells: readonly string[]) => `| ${cells.map((cell, i) => cell.padEnd(widths[i])).join(" | ")} |`;
  return [line(table[0]), line(widths.map((width) => "-".repeat(width))), ...table.slice(1).map(line)].join("\n");
}
