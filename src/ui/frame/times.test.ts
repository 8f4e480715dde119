import { dayWithYear, offsetText } from "./times";

test.each([
  [0, "UTC"],
  [120, "UTC+2"],
  [-150, "UTC−2:30"],
  [345, "UTC+5:45"],
])("a clock that is %s minutes ahead is at %s", (minutes, text) => {
  expect(offsetText(minutes)).toBe(text);
});

test("a day of another year says so", () => {
  const year = new Date().getFullYear();
  expect(dayWithYear(new Date(year, 9, 23).getTime())).toBe("23 Oct");
  expect(dayWithYear(new Date(year - 1, 9, 23).getTime())).toBe(`23 Oct ${year - 1}`);
});
