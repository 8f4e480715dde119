import type { Scenario } from "./scenario";

/** What a scenario must answer, worked out from what was observed: slow, simple, and without a part of the product. */

export interface Answer {
  times: number[];
  series: {
    labels: Record<string, string | null>;
    values: (number | null)[];
    low?: (number | null)[];
    high?: (number | null)[];
    total: number | null;
    totalLow?: number | null;
    totalHigh?: number | null;
  }[];
}

export type Ask = (text: string, from: number, to: number, every: string) => Promise<Answer>;

function near(a: number, b: number): boolean {
  return Math.abs(a - b) <= 1e-6 * Math.max(1, Math.abs(a), Math.abs(b));
}

/** What increases lay into (from, to]. */
function laid(
  scenario: Scenario,
  from: number,
  to: number,
  series: string | null,
  of: (observed: readonly number[]) => number,
): number {
  let sum = 0;
  for (const life of scenario.lives) {
    if (series !== null && life.series !== series) continue;
    for (const one of life.exports) {
      const part = (Math.min(one.to, to) - Math.max(one.from, from)) / (one.to - one.from);
      if (part > 0) sum += of(one.observed) * part;
    }
  }
  return sum;
}

function observedIn(scenario: Scenario, series: string | null): number[] {
  return scenario.lives
    .filter((life) => series === null || life.series === series)
    .flatMap(({ exports }) => exports.flatMap(({ observed }) => observed));
}

/** The smallest value at or below which a part of all lies. */
function quantile(observed: readonly number[], part: number): number {
  const sorted = [...observed].sort((a, b) => a - b);
  return sorted[Math.max(0, Math.ceil(part * sorted.length * (1 - 1e-12)) - 1)];
}

/** Asks a scenario all that can be asked of it. @returns what differs, in words */
export async function differences(scenario: Scenario, ask: Ask): Promise<string[]> {
  const { name, kind, from, to, part: within, every } = scenario;
  const wrong: string[] = [];
  // Of a gauge that was never read, nothing was sent.
  if (scenario.requests.length === 0) return wrong;
  const say = (text: string, found: unknown, wanted: unknown) => wrong.push(`${text}: ${found}, wanted ${wanted}`);
  const names = [...new Set(scenario.lives.map(({ series }) => series))];
  if (kind === "gauge") {
    for (const [how, pick] of [
      ["max", Math.max],
      ["min", Math.min],
    ] as const) {
      const all = observedIn(scenario, null);
      const { series } = await ask(`${how} of ${name}`, from, to, "1m");
      const found = series[0]?.total ?? null;
      if (all.length === 0 ? found !== null : found !== pick(...all)) say(`${how} of ${name}`, found, pick(...all));
    }
    return wrong;
  }
  const count = (observed: readonly number[]) => observed.length;
  const texts: [string, string | null][] = [
    [`count of ${name}`, null],
    [`count of ${name} where k is "${names[0]}"`, names[0]],
    [`sum of ${name}`, null],
  ];
  const whole = { from, to };
  const windows = scenario.twins ? [whole] : [whole, within];
  for (const [text, series, window] of texts.flatMap((one) => windows.map((each) => [...one, each] as const))) {
    const of =
      text.startsWith("sum") && kind !== "counter" ? (all: readonly number[]) => all.reduce((a, b) => a + b, 0) : count;
    const answer = await ask(text, window.from, window.to, every);
    const wanted = laid(scenario, window.from, window.to, series, of);
    const found = answer.series[0]?.total ?? 0;
    if (!near(found, wanted)) say(`${text} from ${window.from} to ${window.to}`, found, wanted);
    // Which of two processes an interval is of cannot always be told; what they add up to can.
    if (scenario.twins) continue;
    let begin = window.from;
    answer.times.forEach((end, i) => {
      const step = laid(scenario, begin, end, series, of);
      const value = answer.series[0]?.values[i] ?? 0;
      if (!near(value, step)) say(`${text} at ${end} every ${every}`, value, step);
      begin = end;
    });
  }
  const grouped = await ask(`count of ${name} by k`, from, to, "1h");
  for (const { labels, total } of grouped.series) {
    const wanted = laid(scenario, from, to, labels.k, count);
    if (!near(total ?? 0, wanted)) say(`count of ${name} by k at ${labels.k}`, total, wanted);
  }
  if (kind === "counter") return wrong;
  const all = observedIn(scenario, null);
  for (const part of [0.5, 0.95]) {
    const text = `p${part * 100} of ${name}`;
    const { series } = await ask(text, from, to, "1h");
    const one = series[0];
    if (all.length === 0) {
      if (one && one.total !== null) say(text, one.total, "nothing");
      continue;
    }
    const truth = quantile(all, part);
    const low = one?.totalLow ?? Number.NEGATIVE_INFINITY;
    const high = one?.totalHigh ?? Number.POSITIVE_INFINITY;
    if (!one || low > truth * (1 + 1e-9) || high < truth * (1 - 1e-9)) say(text, `${low} to ${high}`, truth);
  }
  for (const [how, truth] of [
    ["max", Math.max(...all)],
    ["min", Math.min(...all)],
  ] as const) {
    if (all.length === 0) continue;
    const { series } = await ask(`${how} of ${name}`, from, to, "1h");
    const low = series[0]?.totalLow ?? Number.NEGATIVE_INFINITY;
    const high = series[0]?.totalHigh ?? Number.POSITIVE_INFINITY;
    if (low > truth * (1 + 1e-9) || high < truth * (1 - 1e-9)) say(`${how} of ${name}`, `${low} to ${high}`, truth);
  }
  return wrong;
}
