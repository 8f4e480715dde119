import fc from "fast-check";
import { expectInDocument } from "../document/testing/inDocument";
import { settingsTable } from "./document";
import { SETTINGS, SettingError, type SettingName, settingIn, settingMistakes } from "./settings";

test.each([
  [{}, 10_000],
  [{ TIN_SERIES_LIMIT: "" }, 10_000],
  [{ TIN_SERIES_LIMIT: " 500 " }, 500],
])("%j gives %d", (environment, wanted) => {
  expect(settingIn("TIN_SERIES_LIMIT", environment)).toBe(wanted);
});

test.each(["abc", "0", "-5", "1e3", "5.5", "99999999999", "NaN"])(
  "%s is refused, with what may stand there",
  (text) => {
    const read = () => settingIn("TIN_SERIES_LIMIT", { TIN_SERIES_LIMIT: text });
    expect(read).toThrow(SettingError);
    expect(read).toThrow(`TIN_SERIES_LIMIT is set to "${text}"; a whole number from 1 to 10000000 is expected`);
  },
);

test("texts are read as they stand, choices only as what there is, and what is not set is null or its default", () => {
  expect(settingIn("DATABASE_URL", {})).toBeNull();
  expect(settingIn("DATABASE_URL", { DATABASE_URL: "postgres://x" })).toBe("postgres://x");
  expect(settingIn("TIN_EXPORT_DIR", {})).toBe(".data/exports");
  expect(settingIn("LOG_LEVEL", { LOG_LEVEL: "warn" })).toBe("warn");
  expect(() => settingIn("LOG_LEVEL", { LOG_LEVEL: "loud" })).toThrow(
    'LOG_LEVEL is set to "loud"; one of trace, debug, info, warn, error, fatal, silent is expected',
  );
});

test("all mistakes are told at once, and nothing of what is secret", () => {
  expect(settingMistakes({})).toEqual([]);
  const wrong = settingMistakes({ TIN_WEB_PORT: "x", TIN_ENGINE_CACHE_MB: "1", TIN_SECRET_KEY: "hush" });
  expect(wrong).toHaveLength(2);
  expect(wrong.join()).not.toContain("hush");
});

test("every number that a setting may be is read back, and its neighbours beyond the ends are refused", () => {
  const numbers = (Object.keys(SETTINGS) as SettingName[]).filter((name) => SETTINGS[name].least !== undefined);
  for (const name of numbers) {
    const { least = 0, most = 0, default: usual } = SETTINGS[name];
    expect(usual).toBeGreaterThanOrEqual(least);
    expect(usual).toBeLessThanOrEqual(most);
    fc.assert(
      fc.property(fc.integer({ min: least, max: most }), (value) => {
        expect(settingIn(name, { [name]: String(value) })).toBe(value);
      }),
      { numRuns: 50 },
    );
    for (const outside of [least - 1, most + 1])
      expect(() => settingIn(name, { [name]: String(outside) })).toThrow(SettingError);
  }
});

test("the table of the README is that of the settings", () => {
  expectInDocument("README.md", "settings", settingsTable());
});
