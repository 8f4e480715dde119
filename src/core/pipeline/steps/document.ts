import { markdownTable } from "../../document/table";
import { SIGNALS } from "../../otlp/signals";
import { STEPS } from ".";

/** The kinds of steps as a table for people. */
export function stepsTable(): string {
  const rows = STEPS.map(({ name, lanes, documented }) => [
    name,
    ...SIGNALS.map((signal) => ((lanes as readonly string[]).includes(signal) ? "✓" : "")),
    documented,
  ]);
  return markdownTable([["step", ...SIGNALS, "what it does"], ...rows]);
}
