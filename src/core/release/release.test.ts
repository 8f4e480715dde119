import fc from "fast-check";
import type { ComparisonAnswer } from "../api/comparison";
import type { HomeEntry } from "../api/home";
import { newestFirst } from "./order";
import { reportOf } from "./report";
import { changeText, differenceText, needsText } from "./says";
import { ladderSetting } from "./setting";
import { staysOf } from "./stays";
import { standingOf, worstFirst } from "./worst";

describe("the order of releases", () => {
  const at = (release: string | null, firstAt: number) => ({ release, firstAt });

  test("semantic versions go by their numbers, whenever they were heard", () => {
    const all = [at("5.2.10", 1), at("5.10.0", 2), at("5.2.9", 9), at("5.10.0-rc.1", 3), at("v5.9.0", 4)];
    expect(newestFirst(all).map(({ release }) => release)).toEqual([
      "5.10.0",
      "5.10.0-rc.1",
      "v5.9.0",
      "5.2.10",
      "5.2.9",
    ]);
  });

  test("other schemes go by when they were first heard", () => {
    const all = [at("2026-11-03", 3), at("hotfix", 9), at("5.2.9", 5), at(null, 1)];
    expect(newestFirst(all).map(({ release }) => release)).toEqual(["hotfix", "5.2.9", "2026-11-03", null]);
  });

  test("nothing gets lost", () => {
    fc.assert(
      fc.property(fc.array(fc.record({ release: fc.option(fc.string()), firstAt: fc.nat() })), (all) => {
        expect(new Set(newestFirst(all))).toEqual(new Set(all));
      }),
    );
  });
});

describe("stays", () => {
  const bounds = [0, 1, 2, 3, 4, 5, 6, 7, 8];

  test("a release that is served again after another one has a second stay", () => {
    const calls = [5, 5, 0, 0, 0, 4, 4, 4];
    const others = [0, 1, 5, 5, 5, 1, 0, 0];
    expect(staysOf(bounds, calls, others)).toEqual([
      { from: 0, to: 2 },
      { from: 5, to: 8 },
    ]);
  });

  test("a quiet time, and a gap in what arrives, end no stay", () => {
    const calls = [5, 0, 0, 0, 0, 0, 4, Number.NaN];
    expect(staysOf(bounds, calls, new Float64Array(8))).toEqual([{ from: 0, to: 7 }]);
    expect(staysOf(bounds, [5, 0, 0, 4, 4, 4, 4, 4], [9, 9, 9, 9, 9, 9, 9, 9])).toEqual([{ from: 0, to: 8 }]);
    expect(staysOf(bounds, new Float64Array(8), new Float64Array(8))).toEqual([]);
  });
});

describe("what is missing", () => {
  const open = { verdict: "not enough yet", tooWide: false, needs: null };

  test("is told in calls and time, and in bounds of buckets", () => {
    expect(needsText({ ...open, needs: { calls: 1900, time: 240_000 } }, "s")).toBe(
      "needs about 1,900 more calls, some 4 minutes at this rate",
    );
    expect(needsText({ ...open, needs: { calls: 9, time: 30 * 24 * 3600_000 } }, "s")).toContain("no number of calls");
    expect(needsText({ ...open, tooWide: true, bounds: [0.24, 0.246, 0.252] }, "s")).toBe(
      "its buckets are too wide, whatever the number of calls; bounds 2.5 % apart from 240 ms to 252 ms, or exponential buckets, would tell",
    );
    expect(needsText(open, "s")).toBe("too few minutes to tell chance from change");
    expect(needsText({ ...open, verdict: "same" }, "s")).toBeNull();
  });

  test("changes have their sign", () => {
    expect([changeText(0.38, "%"), changeText(-0.005, "points"), changeText(0, "%")]).toEqual([
      "+38 %",
      "−0.5 points",
      "±0 %",
    ]);
    const starts = differenceText([4, 4.001], "");
    expect([-0.0000544, 0, 18.7, -18.7].map(starts)).toEqual(["±0", "±0", "+18.7", "−18.7"]);
    expect(differenceText([0, 0], "s")(0)).toBe("±0 s");
    expect(differenceText([2, 3], "s")(0.0016)).toBe("+1.6 ms");
    // From 40 % to 41 % of a whole is a point more, and not a percent.
    const shares = differenceText([0.4, 0.41], "1", true);
    expect([shares(0.01), shares(-0.002), shares(0.0000001)]).toEqual(["+1 points", "−0.2 points", "±0 points"]);
  });
});

describe("home", () => {
  const judged = (verdict: "worse" | "better" | "same" | "not enough yet", value: number) => ({
    value,
    low: value,
    high: value,
    verdict,
    times: null,
    tooWide: false,
  });
  const entry = (service: string, parts: Partial<HomeEntry> = {}): HomeEntry => ({
    service,
    environment: "production",
    newest: { release: "2", firstAt: 0 },
    lastAt: 0,
    lately: [],
    silent: false,
    findings: 0,
    coming: [],
    shift: null,
    leak: null,
    lookedAt: 0,
    outlook: null,
    ...parts,
  });
  const judgedBy = (latency: ReturnType<typeof judged>, failures: ReturnType<typeof judged>): Partial<HomeEntry> => ({
    outlook: {
      from: 0,
      to: 1,
      rate: 1,
      serving: [],
      errors: 0,
      verdict: {
        release: "2",
        against: "1",
        way: "side by side",
        time: 1,
        latency,
        failures,
        cause: null,
        differs: null,
      },
    },
  });

  test("stands what fell silent first, then what got worse most, what is open, and what is well", () => {
    const services = [
      entry("well", judgedBy(judged("better", -0.2), judged("same", 0))),
      entry("open", judgedBy(judged("not enough yet", 0.1), judged("same", 0))),
      entry("slower", judgedBy(judged("worse", 0.5), judged("same", 0))),
      entry("failing", judgedBy(judged("same", 0), judged("worse", 0.05))),
      entry("silent", { silent: true }),
      entry("heavy", {
        findings: 3,
        outlook: { from: 0, to: 1, rate: null, serving: [], errors: null, verdict: null, problem: "too much" },
      }),
      entry("odd", { findings: 2 }),
      entry("quiet"),
    ];
    expect(worstFirst(services).map(({ service }) => service)).toEqual([
      "silent",
      "failing",
      "slower",
      "open",
      "heavy",
      "odd",
      "well",
      "quiet",
    ]);
    const said = (name: string) => standingOf(services.find(({ service }) => service === name)!).reason;
    expect(said("failing")).toBe("more errors than 1, +5 points");
    expect(said("slower")).toBe("slower than 1, p95 +50 %");
    expect(said("well")).toBe("faster than 1, p95 −20 %");
    expect(said("open")).toContain("not enough yet");
    expect(said("heavy")).toBe("it could not be looked at: too much");
  });
});

describe("how a team looks at releases", () => {
  test("what cannot be read is refused with the reason", () => {
    const refused = (setting: object) => ladderSetting.safeParse(setting).error?.issues[0].message ?? null;
    expect(refused({})).toBeNull();
    expect(refused({ failed: "error.type is" })).not.toBeNull();
    expect(refused({ columns: [{ name: "x", reading: "p95 off x", good: "less" }] })).not.toBeNull();
    expect(refused({ tolerances: { latency: 0, failures: 0.1 } })).not.toBeNull();
  });
});

describe("the report", () => {
  const side = { service: "loans", environment: "", from: 0, to: 3600_000, servedFrom: 0, announced: null };
  const settled = { verdict: "worse" as const, times: null, tooWide: false, needs: null, bounds: [] };
  const two = { value: 1, low: 0.5, high: null };
  const answer = (name: string, value: string | null): ComparisonAnswer => {
    const cause = {
      where: [{ attribute: name, value }],
      within: 0.01,
      mix: 0.002,
      part: 0.012,
      low: 0.01,
      high: 0.014,
      candidate: { calls: 10, hits: 2 },
      baseline: { calls: 10, hits: 1 },
    };
    const explanation = { whole: 0.012, shares: { candidate: 0.05, baseline: 0.038 }, causes: [cause], attributes: [] };
    return {
      candidate: { ...side, release: "2" },
      baseline: { ...side, release: "1" },
      askedAt: 0,
      metric: "m",
      unit: "s",
      failed: "error.type is there",
      hold: [],
      tolerances: { latency: 0.05, failures: 0.001 },
      way: "side by side",
      pairing: "the minutes in which both had calls",
      minute: 60_000,
      found: {
        minutes: 60,
        calls: { candidate: 100, baseline: 200 },
        rates: { candidate: 1, baseline: 2 },
        latency: [{ q: 0.95, candidate: two, baseline: two, change: { ...settled, value: 0.4, low: 0.3, high: null } }],
        failures: null,
        throughput: null,
        split: { value: 0.33, low: 0.3, high: 0.36, meant: 0.2, verdict: "more than meant" },
      },
      shape: { axis: [], candidate: [], baseline: [], distance: null },
      slower: 0.25,
      slow: explanation,
      failing: null,
      by: null,
      values: [],
      alike: null,
      differs: null,
      courses: null,
      measures: [],
    };
  };

  test("each figure has its interval and verdict, and how it was worked out", () => {
    const text = reportOf(answer("depot", "Brindle"), "http://localhost/releases/two?kept=x");
    expect(text).toContain("# loans 2 against 1");
    expect(text).toContain("| p95 | 1 s | 1 s | +40 % | +30 % to any more | slower |");
    expect(text).toContain("| part of all calls | 33 % |  |  | 30 % to 36 % | meant 20 %: more than meant |");
    expect(text).toContain("## What explains calls slower than 250 ms");
    expect(text).toContain("| depot = Brindle | +1.2 points | +1 points to +1.4 points | +1 points | +0.2 points |");
    expect(text).toContain("1970-01-01 00:00 to 1970-01-01 01:00 UTC");
    expect(text.trimEnd().endsWith("http://localhost/releases/two?kept=x")).toBe(true);
    expect(reportOf({ ...answer("a", "b"), found: null }, "")).toContain("nothing to hold it against");
  });

  test("whatever a value is, it neither ends a row nor begins a cell", () => {
    fc.assert(
      fc.property(fc.string(), fc.option(fc.string()), (name, value) => {
        const rows = reportOf(answer(name, value), "")
          .split("\n")
          .filter((line) => line.startsWith("|"))
          .map((line) => line.replace(/\\./g, "").split("|").length - 2);
        // Figures have six cells, causes five.
        expect(rows).toEqual([6, 6, 6, 6, 6, 5, 5, 5]);
      }),
    );
  });
});
