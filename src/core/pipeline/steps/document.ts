import { SIGNALS } from "../../otlp/signals";
import { STEPS } from ".";

/** The kinds of steps as a table for people, Markdown, its columns padded. */
export function stepsTable(): string {
  const rows = STEPS.map(({ name, lanes, documented }) => [
    name,
    ...SIGNALS.map((signal) => ((lanes as readonly string[]).includes(signal) ? "✓" : "")),
    documented,
  ]);
  const table = [["step", ...SIGNALS, "what it does"], ...rows];
  const widths = table[0].map((_, column) => Math.max(...table.map((row) => row[column].length)));
  const line = (cells: readonly string[]) => `| ${cells.map((cell, i) => cell.padEnd(widths[i])).join(" | ")} |`;
  return [line(table[0]), line(widths.map((width) => "-".repeat(width))), ...table.slice(1).map(line)].join("\n");
}
