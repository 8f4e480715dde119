/** Timing side by side: candidates alternate, and their medians are compared. */

export interface Timed {
  name: string;
  run: () => Promise<unknown> | unknown;
}

export interface Median {
  name: string;
  ms: number;
}

export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[sorted.length >> 1];
}

/** Runs each candidate once to warm up, then `rounds` times in turn. */
export async function alternate(candidates: readonly Timed[], rounds: number): Promise<Median[]> {
  for (const { run } of candidates) await run();
  const times = candidates.map((): number[] => []);
  for (let round = 0; round < rounds; round++) {
    for (const [i, { run }] of candidates.entries()) {
      const began = performance.now();
      await run();
      times[i].push(performance.now() - began);
    }
  }
  return candidates.map(({ name }, i) => ({ name, ms: median(times[i]) }));
}

export interface Line {
  work: string;
  baseline: string;
  ours: string;
  theirs: string;
  ratio: number;
  target: string;
}

const lines: Line[] = [];

/** Notes a result: the ratio says how many times less time or space ours takes. */
export function note(
  work: string,
  baseline: string,
  ours: string,
  theirs: string,
  ratio: number,
  target: string,
): void {
  lines.push({ work, baseline, ours, theirs, ratio, target });
  console.log(`${work} | ${baseline} | ${ours} | ${theirs} | ${ratio.toFixed(1)}× | ${target}`);
}

const series: { title: string; head: readonly string[]; rows: string[][] }[] = [];

/** Notes how something grows: a table of its own. */
export function noteSeries(title: string, head: readonly string[], rows: string[][]): void {
  series.push({ title, head, rows });
  console.log(title);
  for (const row of rows) console.log(`  ${row.join(" | ")}`);
}

/** A time in ms as the tables have it. */
export function inMs(time: number): string {
  return `${time < 10 ? time.toFixed(1) : Math.round(time)} ms`;
}

function seriesTables(): string {
  return series
    .map(({ title, head, rows }) =>
      [
        `\n${title}\n`,
        `| ${head.join(" | ")} |`,
        `|${head.map(() => "---").join("|")}|`,
        ...rows.map((row) => `| ${row.join(" | ")} |`),
      ].join("\n"),
    )
    .join("\n");
}

/** All results as Markdown tables. */
export function table(): string {
  const head = "| work | baseline | ours | baseline | ratio | target |\n|---|---|---|---|---|---|";
  return [
    head,
    ...lines.map(
      (line) =>
        `| ${line.work} | ${line.baseline} | ${line.ours} | ${line.theirs} | ${line.ratio.toFixed(1)}× | ${line.target} |`,
    ),
    seriesTables(),
  ].join("\n");
}

export function perSecond(count: number, ms: number): string {
  const value = (count / ms) * 1000;
  return value >= 1e6 ? `${(value / 1e6).toFixed(2)} M/s` : `${Math.round(value / 1000)} k/s`;
}
