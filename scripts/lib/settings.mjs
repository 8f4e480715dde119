import { readFileSync } from "node:fs";

const declared = JSON.parse(readFileSync(new URL("../../src/core/settings/settings.json", import.meta.url), "utf8"));

/** What a setting says, as text, before packages are there; undefined where it is not set and has no default. */
export function settingOf(name) {
  const { default: usual } = declared[name];
  const text = process.env[name]?.trim() || usual;
  return text === undefined ? undefined : String(text);
}
