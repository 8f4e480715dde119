import { markdownTable } from "../document/table";
import { SETTINGS } from "./settings";

const shown = (value: string | number | undefined) =>
  value === undefined ? "" : typeof value === "string" && value.length > 20 ? "see left" : `\`${value}\``;

/** The settings as a table for people. */
export function settingsTable(): string {
  const rows = Object.entries(SETTINGS).map(([name, { about, unit, default: usual }]) => [
    `\`${name}\``,
    unit ? `${about}, ${unit}` : about,
    shown(usual),
  ]);
  return markdownTable([["variable", "what", "default"], ...rows]);
}
