import fc from "fast-check";
import { isZone, zoneOffset } from "@/core/window/steps";
import { offsetText, timesIn } from "./times";

test.each([
  [0, "UTC"],
  [120, "UTC+2"],
  [-150, "UTC−2:30"],
  [345, "UTC+5:45"],
])("a clock that is %s minutes ahead is at %s", (minutes, text) => {
  expect(offsetText(minutes)).toBe(text);
});

test("a day of another year says so", () => {
  const { dayWithYear } = timesIn("UTC");
  const year = new Date().getUTCFullYear();
  expect(dayWithYear(Date.UTC(year, 9, 23))).toBe("23 Oct");
  expect(dayWithYear(Date.UTC(year - 1, 9, 23))).toBe(`23 Oct ${year - 1}`);
});

test("times are those of the zone's clocks, over a change of the clock too", () => {
  const { clock, moment, offset, tick, tickTimes } = timesIn("Europe/Berlin");
  const before = Date.UTC(2026, 9, 25, 0, 30, 5);
  const hour = 3600_000;
  expect([clock(before), clock(before + hour), clock(before + 2 * hour, true)]).toEqual(["02:30", "02:30", "03:30:05"]);
  expect([offset(before), offset(before + hour)]).toEqual(["UTC+2", "UTC+1"]);
  expect(moment(before)).toMatch(/^25 Oct( 2026)? 02:30:05$/);
  expect(tick(Date.UTC(2026, 10, 28, 23), 24 * hour)).toBe("29 Nov");
  expect(tick(Date.UTC(2026, 10, 28, 22), 24 * hour)).toBe("23:00");
  const midnight = Date.UTC(2026, 10, 28, 23);
  expect(tickTimes(midnight - hour, midnight + 25 * hour, 5).map((time) => clock(time))).toEqual([
    "00:00",
    "06:00",
    "12:00",
    "18:00",
    "00:00",
  ]);
});

test("ticks stand at round times on either side of a change of the clock", () => {
  const { clock, tickTimes } = timesIn("Europe/Berlin");
  const midnight = Date.UTC(2026, 9, 23, 22);
  const ticks = tickTimes(midnight, Date.UTC(2026, 9, 25, 23), 10).map((time) => clock(time));
  expect(ticks).toEqual(["00:00", "06:00", "12:00", "18:00", "00:00", "06:00", "12:00", "18:00", "00:00"]);
});

test("in any zone and at any time a clock shows what the platform's own formatter does", () => {
  const zones = fc.constantFrom("UTC", "Europe/Berlin", "America/St_Johns", "Asia/Kathmandu", "Pacific/Apia");
  const times = fc.integer({ min: Date.UTC(2015, 0, 1), max: Date.UTC(2035, 0, 1) });
  fc.assert(
    fc.property(zones, times, (zone, time) => {
      const shown = new Intl.DateTimeFormat("en-GB", { timeZone: zone, timeStyle: "medium" }).format(time);
      expect(timesIn(zone).clock(time, true)).toBe(shown);
    }),
  );
});

test.each([
  // One minute after midnight, a whole day left out, half an hour.
  ["America/St_Johns", Date.UTC(2010, 10, 7)],
  ["Pacific/Apia", Date.UTC(2011, 11, 30)],
  ["Australia/Lord_Howe", Date.UTC(2026, 3, 4)],
])("over a change of the clock of %s each minute is that of the platform's own formatter", (zone, day) => {
  const { clock } = timesIn(zone);
  const formatter = new Intl.DateTimeFormat("en-GB", { timeZone: zone, timeStyle: "short" });
  const changes = new Set<number>();
  for (let time = day; time < day + 24 * 3600_000; time += 60_000) {
    expect(clock(time)).toBe(formatter.format(time));
    changes.add(zoneOffset(time, zone));
  }
  expect(changes.size).toBe(2);
});

test("a clock is the same after very many zones were asked for", () => {
  const before = timesIn("europe/berlin").clock(Date.UTC(2026, 6, 1));
  const spelled = (i: number) =>
    [..."europe/berlin"].map((letter, place) => ((i >> place) & 1 ? letter.toUpperCase() : letter)).join("");
  for (let i = 0; i < 300; i++) expect(isZone(spelled(i))).toBe(true);
  expect(timesIn("europe/berlin").clock(Date.UTC(2026, 6, 1))).toBe(before);
});
