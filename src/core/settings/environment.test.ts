import { RANGES, SettingError, wholeNumber } from "./environment";

test.each([
  [{}, 10_000],
  [{ TIN_SERIES_LIMIT: "" }, 10_000],
  [{ TIN_SERIES_LIMIT: " 500 " }, 500],
])("%j gives %d", (environment, wanted) => {
  expect(wholeNumber("TIN_SERIES_LIMIT", RANGES.TIN_SERIES_LIMIT, environment)).toBe(wanted);
});

test.each(["abc", "0", "-5", "1e3", "5.5", "99999999999", "NaN"])(
  "%s is refused, with what may stand there",
  (text) => {
    const read = () => wholeNumber("TIN_SERIES_LIMIT", RANGES.TIN_SERIES_LIMIT, { TIN_SERIES_LIMIT: text });
    expect(read).toThrow(SettingError);
    expect(read).toThrow(`TIN_SERIES_LIMIT is set to "${text}"; a whole number from 1 to 10000000 is expected`);
  },
);
