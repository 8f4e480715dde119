import type { PointSet } from "../metric/model";
import { takeRows } from "../strip/strip";
import { startChanges } from "./increase";

/**
 * Writers of one series. A process that restarts changes the start of its running totals once, and the start before
 * never comes again. Where it does come again, two processes write under one identity at the same time: each is then
 * counted by itself (OpenTelemetry metrics data model, "Single-Writer": a series has one writer; this is what is left
 * to do where it had more).
 */

/** Points that follow each other and have one start. */
interface Run {
  part: number;
  first: number;
  after: number;
  start: string;
}

function runsOf(parts: readonly PointSet[]): Run[] {
  const runs: Run[] = [];
  parts.forEach((set, part) => {
    if (set.count === 0) return;
    const firsts = [0, ...startChanges(set)];
    firsts.forEach((first, i) => {
      const after = firsts[i + 1] ?? set.count;
      const unknown = set.startMs[first] === 0 && set.startNs[first] === 0;
      // A point that does not say since when it counts is taken as written by who wrote the one before it.
      const start =
        unknown && runs.length > 0 ? runs[runs.length - 1].start : `${set.startMs[first]} ${set.startNs[first]}`;
      runs.push({ part, first, after, start });
    });
  });
  return runs;
}

/** Whether a start comes again after another one. */
function interleave(runs: readonly Run[]): boolean {
  const met = new Set<string>();
  for (let i = 0; i < runs.length; i++) {
    if (i > 0 && runs[i].start === runs[i - 1].start) continue;
    if (met.has(runs[i].start)) return true;
    met.add(runs[i].start);
  }
  return false;
}

/** A writer per start, but that a start whose points all come after another's goes on as the same writer, restarted. */
function writerOfStarts(runs: readonly Run[]): Map<string, number> {
  const spans = new Map<string, { first: number; last: number }>();
  runs.forEach(({ start }, i) => {
    const span = spans.get(start);
    if (span) span.last = i;
    else spans.set(start, { first: i, last: i });
  });
  const ends: number[] = [];
  const writers = new Map<string, number>();
  for (const [start, { first, last }] of spans) {
    let free = -1;
    ends.forEach((end, writer) => {
      if (end < first && (free < 0 || end > ends[free])) free = writer;
    });
    if (free < 0) free = ends.push(last) - 1;
    else ends[free] = last;
    writers.set(start, free);
  }
  return writers;
}

/**
 * The points of one series of running totals apart by who wrote them, each in the order of time.
 *
 * @param parts its points as sets that follow each other in time
 */
export function writersOf(parts: readonly PointSet[]): PointSet[][] {
  const runs = runsOf(parts);
  if (!interleave(runs)) return [[...parts]];
  const writers = writerOfStarts(runs);
  const result: PointSet[][] = Array.from({ length: Math.max(...writers.values()) + 1 }, () => []);
  parts.forEach((set, part) => {
    const rows: number[][] = result.map(() => []);
    for (const run of runs) {
      if (run.part !== part) continue;
      const own = rows[writers.get(run.start)!];
      for (let row = run.first; row < run.after; row++) own.push(row);
    }
    rows.forEach((own, writer) => {
      if (own.length > 0) result[writer].push(own.length === set.count ? set : takeRows(set, Int32Array.from(own)));
    });
  });
  return result;
}
