import fc from "fast-check";
import type { ReadingResult } from "@/core/reading/result";
import { timesIn } from "../frame/times";
import { chartOf } from "./chartOf";
import { plotIn } from "./room";
import { downOf } from "./scales";
import { standingChart } from "./standing";

const FROM = 1_764_000_000_000;
const STEP = 60_000;

/** A chart of series by depot, their values step by step. */
function chart(values: Record<string, (number | null)[]>, settledTo: number | null = null) {
  const steps = Math.max(1, ...Object.values(values).map(({ length }) => length));
  const times = Array.from({ length: steps }, (_, i) => FROM + (i + 1) * STEP);
  const result: Omit<ReadingResult, "warnings" | "services" | "resolution" | "resolutions"> = {
    reading: "rate of m by depot",
    unit: "/s",
    share: false,
    from: FROM,
    to: FROM + steps * STEP,
    every: STEP,
    times,
    settledTo,
    series: Object.entries(values).map(([depot, own]) => ({
      labels: { depot },
      values: own,
      total: null,
      ...(settledTo !== null && { settledTo }),
    })),
  };
  return chartOf([{ text: result.reading, result: result as ReadingResult }], {});
}

const draw = (drawn: ReturnType<typeof chart>, height = 190) => standingChart(drawn, height, timesIn("Asia/Kathmandu"));
const linesIn = (html: string) => [...html.matchAll(/<path d="([^"]*)"[^>]*data-of/g)].map(([, d]) => d);

test("what the server draws lies at the heights of the chart that takes its place, over the whole width", () => {
  const drawn = chart({ Brindle: [0, 50, 100], "Marrow Quay": [25, null, 75] });
  const html = draw(drawn);
  const plot = { ...plotIn(190, 0, 1000), y: 0 };
  const down = downOf(drawn.left, plot);
  const near = (value: number) => Math.round(value * 10) / 10;
  // The first lies on top: it is drawn last.
  expect(linesIn(html)).toEqual([
    `M333.3,${near(down(25))}M1000,${near(down(75))}`,
    `M333.3,${near(down(0))}L666.7,${near(down(50))}L1000,${near(down(100))}`,
  ]);
  expect(html).toContain(`viewBox="0 0 1000 ${plot.height}"`);
  for (const text of ["100 /s", "Brindle", "Marrow Quay"]) expect(html).toContain(`>${text}<`);
  // By the viewer's clock: 16:00 UTC is 21:45 there.
  expect(html).toMatch(/>21:4\d:00</);
});

test("what may still change is dashed, apart from the line", () => {
  const html = draw(chart({ Brindle: [10, 20, 30, 5] }, FROM + 3 * STEP));
  expect(linesIn(html)).toHaveLength(1);
  expect(linesIn(html)[0].split("L")).toHaveLength(3);
  expect(html.match(/stroke-dasharray="3 3"/g)).toHaveLength(1);
});

test("a chart that is blank for long at a side says from when or until when there was something", () => {
  const blanks = (values: (number | null)[], other: (number | null)[] = values) =>
    [...draw(chart({ Brindle: values, "Marrow Quay": other })).matchAll(/>(nothing [^<]*)</g)].map(
      ([, words]) => words,
    );
  const nothing = Array.from({ length: 12 }, () => null);
  // 16:00 UTC is 21:45 there; the first value covers the step that ends at 22:03.
  expect(blanks([...nothing, ...nothing.slice(7), 3, 4])).toEqual(["nothing before 22:02:00"]);
  expect(blanks([3, 4, ...nothing])).toEqual(["nothing after 21:47:00"]);
  expect(blanks([...nothing, 5, ...nothing])).toEqual(["nothing before 21:57", "nothing after 21:58"]);
  // As long as one of them has a value there.
  expect(blanks([...nothing, 5, 6], [1, ...nothing, 1])).toEqual([]);
  expect(blanks([null, 1, 2, 3, 4, null])).toEqual([]);
  expect(blanks(nothing)).toEqual([]);
  // A time of day would not say which day: 16:00 UTC of the 24th is 21:45, and 800 minutes later it is the 25th there.
  const day = [...Array.from({ length: 800 }, () => null), 1, 2];
  expect(blanks(day)[0]).toMatch(/^nothing before 25 Nov( 2025)? 11:0\d$/);
  const many = Object.fromEntries(
    Array.from({ length: 90 }, (_, i) => [`depot ${i}`, i < 80 ? [...nothing, 1] : [1, ...nothing]]),
  );
  expect(chart(many).more).toBeGreaterThan(0);
  expect(draw(chart(many))).not.toContain("nothing before");
});

test("names are text, whatever stands in them", () => {
  fc.assert(
    fc.property(
      fc.string({ minLength: 1, maxLength: 17, unit: "binary-ascii" }),
      fc.string({ maxLength: 6 }),
      (name, other) => {
        const html = draw(chart({ [`<${name}`]: [1, 2], [`"&'${other}`]: [2, 1] }));
        // Nothing but what is ours opens, and what is opened is closed.
        const tags = [...html.matchAll(/<(\/?)([a-z]+)/g)].map(([, end, tag]) => `${end}${tag}`);
        expect([...new Set(tags)].sort()).toEqual(["/div", "/span", "/svg", "div", "path", "span", "svg"]);
        expect(html.match(/</g)!.length).toBe(tags.length);
        expect(html).toContain("&#60;");
      },
    ),
  );
});

test("releases and levels stand where the chart that takes its place has them", () => {
  const drawn = chart({ Brindle: [0, 50, 100] });
  const plot = { ...plotIn(190, 0, 1000), y: 0 };
  const y = downOf(drawn.left, plot)(80);
  const marks = [
    { release: "1.2.0", at: FROM + 1.5 * STEP },
    { release: "before all", at: FROM },
    { release: "<b>", at: FROM + 3 * STEP },
  ];
  const thresholds = [{ at: "80 /s", word: "busy & loud", value: 80, wrong: "above" as const }];
  const html = standingChart(drawn, 190, timesIn("UTC"), marks, thresholds);
  expect([...html.matchAll(/<path d="([^"]*)"[^>]*data-mark="([^"]*)"/g)].map(([, d, name]) => [d, name])).toEqual([
    [`M500.0,0V${plot.height}`, "1.2.0"],
    [`M1000.0,0V${plot.height}`, "&#60;b&#62;"],
  ]);
  for (const text of [">1.2.0<", ">&#60;b&#62;<", ">busy &#38; loud 80 /s<"]) expect(html).toContain(text);
  expect(html).not.toContain("before all");
  expect(html).toContain(`<path d="M0,${y}H1000" vector-effect="non-scaling-stroke" stroke="var(--color-error)"`);
  expect(html).toContain(`<path d="M0,0H1000V${y}H0Z"`);
});
