/** A table for people, Markdown, its columns padded. The first row is the head. */
export function markdownTable(rows: readonly (readonly string[])[]): string {
  const widths = rows[0].map((_, column) => Math.max(...rows.map((row) => row[column].length)));
  const line = (cells: readonly string[]) => `| ${cells.map((cell, i) => cell.padEnd(widths[i])).join(" | ")} |`;
  return [line(rows[0]), line(widths.map((width) => "-".repeat(width))), ...rows.slice(1).map(line)].join("\n");
}
